/** Audio that patches bring along: kept once by content, read when a patch needs it. */
import { type Patch, readWav, type Sound } from '@ypsilon/core'
import localforage from 'localforage'

const storage = localforage.createInstance({ name: 'ypsilon', storeName: 'audio' })

interface AudioAsset {
  readonly id: string
  readonly hash: string
  readonly file: string
}

/** Recordings that are decoded, by content; undefined while they are looked for, null where there is none. */
const decoded = new Map<string, Sound | null>()

/** SHA-256 of a file, in hexadecimal. */
export const hashOf = async (bytes: Uint8Array): Promise<string> =>
  [...new Uint8Array(await crypto.subtle.digest('SHA-256', bytes as Uint8Array<ArrayBuffer>))]
    .map((byte) => byte.toString(16).padStart(2, '0'))
    .join('')

/** Audio and tables of a patch that have a content to be found by. */
export const audioAssets = (patch: Patch): AudioAsset[] =>
  Object.entries((patch['assets'] ?? {}) as Record<string, { kind?: string; hash?: string; file?: string }>)
    .filter(([, asset]) => asset.kind === 'audio' || asset.kind === 'table')
    .map(([id, asset]) => ({ id, hash: asset.hash ?? '', file: asset.file ?? `assets/${id}.wav` }))

/** Keeps a WAV file; its hash. Rejects when the browser keeps nothing; the sound is there all the same. */
export const keepAudio = async (bytes: Uint8Array, sound: Sound): Promise<string> => {
  const hash = await hashOf(bytes)
  decoded.set(hash, sound)
  await storage.setItem(hash, bytes)
  return hash
}

export const audioBytes = async (hash: string): Promise<Uint8Array | null> =>
  storage.getItem<Uint8Array>(hash)

/** Reads what a patch needs and is not decoded yet; ids of what is not there. */
export const loadAudio = async (patch: Patch): Promise<string[]> => {
  const missing: string[] = []
  for (const { id, hash } of audioAssets(patch)) {
    if (!decoded.has(hash)) {
      const bytes = await audioBytes(hash).catch(() => null)
      const result = bytes ? readWav(bytes) : undefined
      decoded.set(hash, result?.ok ? result.sound : null)
    }
    if (!decoded.get(hash)) missing.push(id)
  }
  return missing
}

const sets = new Map<string, ReadonlyMap<string, Sound>>()
/** What is there of a patch's audio, by id; the same map as long as it is the same. */
export const soundsFor = (patch: Patch): ReadonlyMap<string, Sound> => {
  const there = audioAssets(patch).filter(({ hash }) => decoded.get(hash))
  const key = there.map(({ id, hash }) => `${id} ${hash}`).join('\n')
  let set = sets.get(key)
  if (!set) {
    set = new Map(there.map(({ id, hash }) => [id, decoded.get(hash)!]))
    sets.clear()
    sets.set(key, set)
  }
  return set
}
