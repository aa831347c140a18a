/** Names of audio within what is kept: audio is found by the SHA-256 of its bytes. */

const HASH = /^[0-9a-f]{64}$/

/** Every hash that stands anywhere in a value: in a patch, its history, a version, a take. */
export const audioHashesOf = (value: unknown): Set<string> => {
  const found = new Set<string>(),
    open: unknown[] = [value]
  while (open.length > 0) {
    const item = open.pop()
    if (typeof item === 'string') {
      if (HASH.test(item)) found.add(item)
    } else if (typeof item === 'object' && item !== null && !(item instanceof Blob))
      for (const inner of Object.values(item)) open.push(inner)
  }
  return found
}
