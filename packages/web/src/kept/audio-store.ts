/** Audio that documents bring along: kept once by content as Blobs, decoded when a patch needs it. */
import { faultText, noteAtRate, type Patch, readWav, type RecordingShape, type Sound } from '@ypsilon/core'
import type { Box } from './database.ts'
import type { ReadSound, SoundReader } from '../audio/sound-reader.ts'

export type { ReadSound }
/** Why nothing of a recording would be heard. */
export const whySilent = ({ result }: ReadSound): string | undefined => {
  if (!result.ok) return faultText(result.fault)
  return result.sound.channels[0]?.length ? undefined : 'it holds no samples'
}

export interface AudioAsset {
  readonly id: string
  readonly hash: string
  readonly file: string
}

/** What stands in the store under a hash. */
export interface KeptAudio {
  readonly blob: Blob
  readonly at: number
}

/** SHA-256 of bytes, in hexadecimal. */
export const hashOf = async (bytes: Uint8Array): Promise<string> =>
  [...new Uint8Array(await crypto.subtle.digest('SHA-256', bytes as Uint8Array<ArrayBuffer>))]
    .map((byte) => byte.toString(16).padStart(2, '0'))
    .join('')

/** Audio and tables of a patch that have a content to be found by. */
export const audioAssets = (patch: Patch): AudioAsset[] =>
  Object.entries((patch['assets'] ?? {}) as Record<string, { kind?: string; hash?: string; file?: string }>)
    .filter(([, asset]) => asset.kind === 'audio' || asset.kind === 'table')
    .map(([id, asset]) => ({ id, hash: asset.hash ?? '', file: asset.file ?? `assets/${id}.wav` }))

const RENEWED_MS = 3600 * 1000

/** Where nothing reads elsewhere: at once, here. */
const readHere: SoundReader = (bytes, most) => Promise.resolve({ result: readWav(bytes, most) })

export class AudioStore {
  /** Recordings that are decoded, by content; null where there is none. */
  private readonly decoded = new Map<string, Sound | null>()
  private readonly shapes = new Map<string, RecordingShape>()
  private readonly sets = new Map<string, ReadonlyMap<string, Sound>>()

  constructor(
    private readonly box: Box,
    private readonly clock: { now(): number },
    private readonly read: SoundReader = readHere,
    private readonly rate: () => number = () => 48000,
  ) {}

  /** Reads a WAV file as it is kept: what is wrong with it, or its sound. */
  async readSound(bytes: Uint8Array, most?: number): Promise<ReadSound> {
    const rate = this.rate(),
      read = await this.read(bytes, most, rate)
    if (read.result.ok && read.atRate) noteAtRate(read.result.sound, rate, read.atRate)
    return read
  }

  /** Keeps bytes; their hash. Rejects when the browser keeps nothing. */
  async keep(bytes: Uint8Array): Promise<string> {
    const hash = await hashOf(bytes)
    const old = await this.box.get<Partial<KeptAudio>>(hash)
    // What is asked for again is fresh again: no clean-up takes it before a document names it.
    if (!old || this.clock.now() - (old.at ?? 0) > RENEWED_MS)
      await this.box.set(hash, {
        blob: new Blob([bytes as Uint8Array<ArrayBuffer>]),
        at: this.clock.now(),
      } satisfies KeptAudio)
    return hash
  }

  /** Keeps a WAV file whose sound is there already. */
  async keepSound(bytes: Uint8Array, read: ReadSound): Promise<string> {
    const hash = await this.keep(bytes)
    this.take(hash, read)
    return hash
  }

  /** Has what was read of a content from now on; null in its place where it is no sound. */
  private take(hash: string, read: ReadSound | undefined): void {
    const sound = read?.result.ok ? read.result.sound : null
    this.decoded.set(hash, sound)
    if (sound && read?.shape) this.shapes.set(hash, { ...read.shape, samples: sound.channels[0]! })
  }

  /** How a recording of a patch is drawn; undefined until it is there. */
  shapeOf(patch: Patch, name: string): RecordingShape | undefined {
    const asset = audioAssets(patch).find(({ id }) => id === name)
    return asset && this.shapes.get(asset.hash)
  }

  /** Bytes by their hash; null where they are not kept. */
  async bytes(hash: string): Promise<Uint8Array | null> {
    const kept = await this.box.get<KeptAudio | Uint8Array>(hash)
    // Earlier versions of the page kept the plain bytes.
    if (kept === null || kept instanceof Uint8Array) return kept
    return new Uint8Array(await kept.blob.arrayBuffer())
  }

  /** Reads what a patch needs and is not decoded yet; ids of what is not there. */
  async load(patch: Patch): Promise<string[]> {
    const missing: string[] = []
    for (const { id, hash } of audioAssets(patch)) {
      if (!this.decoded.has(hash)) {
        const bytes = await this.bytes(hash).catch(() => null)
        this.take(hash, bytes ? await this.readSound(bytes) : undefined)
      }
      if (!this.decoded.get(hash)) missing.push(id)
    }
    return missing
  }

  /** What is there of a patch's audio, by id; the same map as long as it is the same. */
  soundsFor(patch: Patch): ReadonlyMap<string, Sound> {
    const there = audioAssets(patch).filter(({ hash }) => this.decoded.get(hash))
    const key = there.map(({ id, hash }) => `${id} ${hash}`).join('\n')
    let set = this.sets.get(key)
    if (!set) {
      set = new Map(there.map(({ id, hash }) => [id, this.decoded.get(hash)!]))
      this.sets.clear()
      this.sets.set(key, set)
    }
    return set
  }
}
