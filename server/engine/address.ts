/** Where a server is, and who asks. */
export interface Address {
  hostname: string
  port: number
  user: string
  password: string
  database: string
}

/** What a password is called where it stands behind the question mark of an address. */
const SECRETS = new Set(['password', 'passwd', 'pwd', 'pass'])

/** The password that stands in an address, in either of its places; nothing where there is none, or no address. */
export function passwordIn(url: string): string | undefined {
  if (!URL.canParse(url)) return undefined
  const { password, searchParams } = new URL(url)
  const asked = [...searchParams].find(([name, value]) => SECRETS.has(name.toLowerCase()) && value !== '')
  return password === '' ? asked?.[1] : decoded(password)
}

/** A part of an address as it was before it was written there; as it stands where it was not written so. */
function decoded(part: string): string {
  try {
    return decodeURIComponent(part)
  } catch {
    return part
  }
}

/**
 * The parts of an address of a database; nothing where it is none, or is not written as addresses are (RFC 3986,
 * 2.1).
 * @param schemes what may stand before the colon
 * @param usual the port where none is said
 */
export function addressIn(url: string, schemes: readonly string[], usual: number): Address | undefined {
  if (!URL.canParse(url)) return undefined
  const { protocol, hostname, port, username, pathname } = new URL(url)
  if (!schemes.includes(protocol.slice(0, -1))) return undefined
  try {
    const [user = '', database = ''] = [username, pathname.slice(1)].map(decodeURIComponent)
    const secret = passwordIn(url) ?? ''
    // Servers are told names up to a NUL.
    if (database === '' || [user, database, secret].some((part) => part.includes('\0'))) return undefined
    // An address of version 6 stands in brackets there.
    const host = hostname.replace(/^\[(.*)\]$/, '$1')
    return { hostname: host, port: Number(port || usual), user, password: secret, database }
  } catch {
    return undefined
  }
}
