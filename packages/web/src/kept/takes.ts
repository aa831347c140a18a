/**
 * Takes: what was recorded. While one is recorded, its audio goes into the store in pieces of half a second, each a WAV
 * file found by its content, and `piece/ID/N` says which; at the end the take lists them. A crash costs the last piece.
 */
import { readWav, WavEncoder, wavHeader, writeWav } from '@ypsilon/core'
import { fadeEnd } from '../audio/tape.ts'
import type { AudioStore } from './audio-store.ts'
import { type Box, keysUnder } from './database.ts'
import { bodyKey, freshHead, type Head, headKey, writeBody } from './records.ts'

export interface TakeBody {
  readonly head: Head
  readonly rate: number
  readonly frames: number
  /** Hashes of its pieces, in order. */
  readonly pieces: readonly string[]
  /** Still being recorded, or broken off. */
  readonly isOpen: boolean
}

const PIECE_SECONDS = 0.5
const piecesKey = (id: string): string => `piece/${id}/`
const pieceKey = (id: string, n: number): string => `${piecesKey(id)}${String(n).padStart(7, '0')}`

interface Stereo {
  readonly left: Float32Array
  readonly right: Float32Array
}

const joined = (parts: readonly Stereo[]): Float32Array[] =>
  (['left', 'right'] as const).map((side) => {
    const all = new Float32Array(parts.reduce((sum, part) => sum + part.left.length, 0))
    let at = 0
    for (const part of parts) {
      all.set(part[side], at)
      at += part[side].length
    }
    return all
  })

/** Writes a take while it is recorded. Nothing is lost in order: pieces are written one after the other. */
export class TakeWriter {
  readonly head: Head
  private parts: Stereo[] = []
  private waiting = 0
  private frames = 0
  private readonly pieces: string[] = []
  /** What the store does not have yet, in order. */
  private readonly queue: Stereo[] = []
  private writing: Promise<void>
  /** Why the store did not take the last it was given. */
  failure: unknown

  constructor(
    private readonly box: Box,
    private readonly audio: AudioStore,
    name: string,
    private readonly rate: number,
    now: number,
  ) {
    this.head = freshHead('take', name, now)
    this.writing = writeBody(box, this.body(true)).catch((error: unknown) => {
      this.failure = error
    })
  }

  private body(isOpen: boolean): TakeBody {
    const { rate, frames, pieces } = this
    const head = { ...this.head, seconds: frames / rate, ...(isOpen ? { isOpen } : {}) }
    return { head, rate, frames, pieces: [...pieces], isOpen }
  }

  add(part: Stereo): void {
    this.parts.push(part)
    this.waiting += part.left.length
    if (this.waiting >= PIECE_SECONDS * this.rate) this.cut()
  }

  /** What has come since the last piece becomes one. */
  private cut(): void {
    if (this.waiting > 0) {
      const [left, right] = joined(this.parts) as [Float32Array, Float32Array]
      this.queue.push({ left, right })
      this.parts = []
      this.waiting = 0
      this.frames += left.length
    }
    this.writing = this.writing.then(() => this.write())
  }

  /** Writes what waits; where the store fails it is tried again with the next piece. */
  private async write(): Promise<void> {
    try {
      for (let part = this.queue[0]; part; part = this.queue[0]) {
        const channels = [part.left, part.right]
        const hash = await this.audio.keep(writeWav({ rate: this.rate, channels }, '32f'))
        await this.box.set(pieceKey(this.head.id, this.pieces.length), hash)
        this.pieces.push(hash)
        this.queue.shift()
      }
      this.failure = undefined
    } catch (error) {
      this.failure = error
    }
  }

  /** The take as it is kept. Rejects when the store did not take all of it. */
  async finish(): Promise<TakeBody> {
    this.cut()
    await this.writing
    if (this.failure !== undefined) throw this.failure
    const body = this.body(false)
    await writeBody(this.box, body)
    await forgetPieces(this.box, this.head.id)
    return body
  }

  /** What the store did not take, so that it can leave as a file. */
  rest(): Stereo {
    const [left, right] = joined(this.queue) as [Float32Array, Float32Array]
    return { left, right }
  }
}

const pieceKeys = async (box: Box, id: string): Promise<string[]> =>
  (await keysUnder(box, piecesKey(id))).sort()

const forgetPieces = async (box: Box, id: string): Promise<void> => {
  for (const key of await pieceKeys(box, id)) await box.remove(key)
}

const soundOf = async (audio: AudioStore, hash: string): Promise<Float32Array[] | undefined> => {
  const bytes = await audio.bytes(hash)
  const wav = bytes ? readWav(bytes) : undefined
  return wav?.ok ? [...wav.sound.channels] : undefined
}

export const readTake = (box: Box, id: string): Promise<TakeBody | null> => box.get<TakeBody>(bodyKey(id))

/** Ends a take that broke off: what there is of it, faded at its end. */
export const recoverTake = async (box: Box, audio: AudioStore, id: string): Promise<void> => {
  const body = await readTake(box, id)
  if (!body?.isOpen) return
  const pieces: string[] = []
  let frames = 0
  for (const key of await pieceKeys(box, id)) {
    const hash = await box.get<string>(key)
    const channels = hash === null ? undefined : await soundOf(audio, hash)
    if (!channels) break
    pieces.push(hash!)
    frames += channels[0]!.length
  }
  const last = pieces.pop()
  if (last !== undefined) {
    const channels = (await soundOf(audio, last))!.map((channel) => channel.slice())
    fadeEnd(channels, body.rate)
    pieces.push(await audio.keep(writeWav({ rate: body.rate, channels }, '32f')))
  }
  const head = { ...body.head, seconds: frames / body.rate }
  delete head.isOpen
  if (frames === 0) {
    await box.remove(bodyKey(id))
    await box.remove(headKey(id))
  } else await writeBody(box, { ...body, head, frames, pieces, isOpen: false })
  await forgetPieces(box, id)
}

/** A take as one WAV file of 24 bits, piece by piece. Rejects where a piece is missing. */
export const takeFile = async (audio: AudioStore, take: TakeBody): Promise<Blob> => {
  const shape = { rate: take.rate, channels: 2, frames: take.frames, bits: '24' } as const
  const encoder = new WavEncoder('24')
  const parts: BlobPart[] = [wavHeader(shape) as BlobPart]
  for (const hash of take.pieces) {
    const channels = await soundOf(audio, hash)
    if (!channels) throw new Error('A part of this take is not in the browser any more.')
    parts.push(encoder.encode(channels, 0, channels[0]!.length) as BlobPart)
  }
  return new Blob(parts, { type: 'audio/wav' })
}
