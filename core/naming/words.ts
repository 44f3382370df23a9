/** Words that are the same for one and for many. */
const UNCHANGED = new Set([
  'species',
  'series',
  'sheep',
  'deer',
  'fish',
  'staff',
  'stock',
  'data',
  'equipment'
])
const IRREGULAR = new Map([
  ['person', 'people'],
  ['child', 'children'],
  ['man', 'men'],
  ['woman', 'women'],
  ['mouse', 'mice'],
  ['goose', 'geese'],
  ['foot', 'feet'],
  ['index', 'indexes']
])

/** The plural of a table's name for a sentence: `diagnosis` → `diagnoses`, `carer_note` → `carer_notes`. */
export function plural(name: string): string {
  const [, head = '', last = ''] = /^(.*?)([a-z]*)$/is.exec(name) ?? []
  const word = last.toLowerCase()
  if (word === '' || UNCHANGED.has(word)) return name
  const irregular = IRREGULAR.get(word)
  if (irregular) return head + irregular
  if (/(?:sis|xis)$/.test(word)) return `${name.slice(0, -2)}es`
  if (/(?:s|x|z|ch|sh)$/.test(word))
    return /[^aeiou]s$|[aeiou]ss$|[xz]$|[cs]h$|us$/.test(word) ? `${name}es` : name
  if (/[^aeiou]y$/.test(word)) return `${name.slice(0, -1)}ies`
  return `${name}s`
}

const ONE = new Map([...IRREGULAR].map(([one, many]) => [many, one]))

/** The singular of a table's name, where it is a plural: `diagnoses` → `diagnosis`. */
export function singular(name: string): string {
  const [, head = '', last = ''] = /^(.*?)([a-z]*)$/is.exec(name) ?? []
  const word = last.toLowerCase()
  if (word === '' || UNCHANGED.has(word)) return name
  const irregular = ONE.get(word)
  if (irregular) return head + irregular
  // Words from the Greek: analysis, diagnosis, basis, synthesis.
  if (/(?:ly|gno|ba|ri|the)ses$/.test(word)) return `${name.slice(0, -2)}is`
  if (/(?:sses|[^ao]uses|xes|zzes|ches|shes)$/.test(word)) return name.slice(0, -2)
  if (/[^aeiou]ies$/.test(word)) return `${name.slice(0, -3)}y`
  return /[^su]s$/.test(word) && !/(?:is|ss)$/.test(word) ? name.slice(0, -1) : name
}

/** `a` or `an`, by the first letter. */
export function article(name: string): string {
  return /^[aeiou]/i.test(name) ? 'an' : 'a'
}

/** So many of a thing: `no doses`, `1 dose`, `3 doses`. */
export function counted(count: number, name: string): string {
  return `${count === 0 ? 'no' : count.toLocaleString('en-GB')} ${count === 1 ? name : plural(name)}`
}
