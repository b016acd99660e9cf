// Names that formulas can use.

/** What something is called as the name of a parameter that is not taken. */
export function freeName(words: string, taken: string[]): string {
  const plain = words
    .normalize('NFKD')
    .replaceAll(/\p{M}/gu, '')
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '_')
    .replaceAll(/^[_0-9]+|_+$/g, '')
    .slice(0, 34)
  const base = plain || 'value'
  let name = base
  for (let n = 2; taken.includes(name); n++) name = `${base}_${n}`
  return name
}
