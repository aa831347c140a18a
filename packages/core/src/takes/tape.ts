/** Recordings that are read piece by piece: what steps of a chain take and give. */
import type { Sound } from '../formats/wav.ts'

export interface TapeShape {
  readonly rate: number
  readonly channels: number
  readonly frames: number
}

export interface Tape extends TapeShape {
  /** Frames from `from` to `to` of every channel, silence beyond the ends; not to be changed. */
  read(from: number, to: number): Promise<readonly Float32Array[]>
}

/** Frames that are read at once. */
export const PIECE = 65536

/** Samples from `from` to `to`, silence beyond the ends. */
const stretchOf = (x: Float32Array, from: number, to: number): Float32Array => {
  if (from >= 0 && to <= x.length) return x.subarray(from, to)
  const out = new Float32Array(Math.max(0, to - from)),
    first = Math.max(0, from),
    last = Math.min(x.length, to)
  if (last > first) out.set(x.subarray(first, last), first - from)
  return out
}

/** Frames from `from` to `to` of something that is only there from 0 to `frames`. */
export const bounded = async (
  frames: number,
  from: number,
  to: number,
  read: (first: number, last: number) => Promise<readonly Float32Array[]>,
): Promise<readonly Float32Array[]> => {
  const first = Math.min(frames, Math.max(0, from)),
    last = Math.min(frames, Math.max(first, to))
  const channels = await read(first, last)
  if (first === from && last === to) return channels
  return channels.map((channel) => {
    const out = new Float32Array(Math.max(0, to - from))
    if (last > first) out.set(channel, first - from)
    return out
  })
}

export const tapeOf = ({ rate, channels }: Sound): Tape => ({
  rate,
  channels: channels.length,
  frames: channels[0]?.length ?? 0,
  read: (from, to) => Promise.resolve(channels.map((channel) => stretchOf(channel, from, to))),
})

/** All of a tape, one piece after the other. */
export async function* piecesOf(tape: Tape): AsyncGenerator<readonly Float32Array[]> {
  for (let at = 0; at < tape.frames; at += PIECE) yield await tape.read(at, Math.min(tape.frames, at + PIECE))
}

/** The whole of a tape in memory. */
export const soundOf = async (tape: Tape): Promise<Sound> => {
  const channels = Array.from({ length: tape.channels }, () => new Float32Array(tape.frames))
  let at = 0
  for await (const piece of piecesOf(tape)) {
    channels.forEach((channel, n) => {
      channel.set(piece[n]!, at)
    })
    at += piece[0]?.length ?? 0
  }
  return { rate: tape.rate, channels }
}

/** The same tape with every sample turned into another: `into` gets a copy and where it begins. */
export const turned = (
  tape: Tape,
  into: (channels: readonly Float32Array[], from: number) => void,
): Tape => ({
  ...tape,
  read: async (from, to) => {
    const channels = (await tape.read(from, to)).map((channel) => channel.slice())
    into(channels, from)
    return channels
  },
})

/** The same tape by a factor. */
export const scaled = (tape: Tape, factor: number): Tape =>
  turned(tape, (channels) => {
    for (const channel of channels) for (let i = 0; i < channel.length; i += 1) channel[i]! *= factor
  })

/** Where something is kept that comes one piece after the other, to be read anywhere afterwards. */
export interface Spool {
  /** The next frames of every channel; they may be used again afterwards. */
  write(channels: readonly Float32Array[], frames: number): Promise<void>
  /** Everything is written. */
  end(): Promise<Tape>
}

/** Keeps it in memory. */
export class MemorySpool implements Spool {
  private readonly pieces: (readonly Float32Array[])[] = []
  private frames = 0

  constructor(
    private readonly rate: number,
    private readonly channels: number,
  ) {}

  write(channels: readonly Float32Array[], frames: number): Promise<void> {
    this.pieces.push(channels.map((channel) => channel.slice(0, frames)))
    this.frames += frames
    return Promise.resolve()
  }

  end(): Promise<Tape> {
    const channels = Array.from({ length: this.channels }, () => new Float32Array(this.frames))
    let at = 0
    for (const piece of this.pieces) {
      channels.forEach((channel, n) => {
        channel.set(piece[n]!, at)
      })
      at += piece[0]!.length
    }
    return Promise.resolve(tapeOf({ rate: this.rate, channels }))
  }
}
