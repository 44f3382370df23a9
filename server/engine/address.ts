/** Where a server is, and who asks. */
export interface Address {
  hostname: string
  port: number
  user: string
  password: string
  database: string
}

/**
 * The parts of an address of a database; nothing where it is none, or is not written as addresses are (RFC 3986,
 * 2.1).
 * @param schemes what may stand before the colon
 * @param usual the port where none is said
 */
export function addressIn(url: string, schemes: readonly string[], usual: number): Address | undefined {
  if (!URL.canParse(url)) return undefined
  const { protocol, hostname, port, username, password, pathname } = new URL(url)
  if (!schemes.includes(protocol.slice(0, -1))) return undefined
  try {
    const [user = '', secret = '', database = ''] = [username, password, pathname.slice(1)].map(
      decodeURIComponent
    )
    if (database === '') return undefined
    // An address of version 6 stands in brackets there.
    const host = hostname.replace(/^\[(.*)\]$/, '$1')
    return { hostname: host, port: Number(port || usual), user, password: secret, database }
  } catch {
    return undefined
  }
}
