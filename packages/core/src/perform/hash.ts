/** A patch told by what is heard of it. Apart from the index: the audio thread has no digests. */
import type { Patch } from '../patch/types.ts'

/** Fields that change nothing that is heard. */
const UNHEARD = new Set(['view', 'x', 'y', 'label', 'description', 'tags', 'name', 'app', 'stage', 'color'])

const canonical = (value: unknown, place: string): unknown => {
  if (Array.isArray(value)) return value.map((item) => canonical(item, place))
  if (typeof value !== 'object' || value === null) return value
  const fields = Object.entries(value).filter(
    ([name]) => place === 'data' || place === 'params' || !UNHEARD.has(name),
  )
  return Object.fromEntries(
    fields.sort(([a], [b]) => (a < b ? -1 : 1)).map(([name, item]) => [name, canonical(item, name)]),
  )
}

/** SHA-256, in hexadecimal, of what is heard of a patch: places, names and colours do not count. */
export const patchHash = async (patch: Patch): Promise<string> => {
  const bytes = new TextEncoder().encode(JSON.stringify(canonical(patch, '')))
  const digest = await globalThis.crypto.subtle.digest('SHA-256', bytes)
  return [...new Uint8Array(digest)].map((byte) => byte.toString(16).padStart(2, '0')).join('')
}
