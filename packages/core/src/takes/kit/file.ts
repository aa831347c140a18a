/** The WAV file of a part of a kit: gain, dither of its own, and what samplers need. */
import { seedOf } from '../../compile/compile.ts'
import { type Sound, WavEncoder, wavHeader, type WavShape } from '../../formats/wav.ts'
import { wavChunks, type WavMark } from '../../formats/wav-chunks.ts'
import { PIECE } from '../tape.ts'
import type { PartFacts } from './job.ts'
import { type KitDescription, velocityStep } from './description.ts'
import type { KitJob, KitPlan } from './plan.ts'
import { wavName } from './plan.ts'

/** Keys and velocities that a file is for. */
export interface Reach {
  readonly root: number
  readonly keys: readonly [low: number, high: number]
  readonly velocities: readonly [low: number, high: number]
}

/** Keys of every note of a rising list: up to the middle between two, the outer ones as far to their other side. */
export const keyReach = (notes: readonly number[], note: number): readonly [low: number, high: number] => {
  const at = notes.indexOf(note),
    below = notes[at - 1],
    above = notes[at + 1]
  const up = above === undefined ? undefined : Math.floor((above - note) / 2),
    down = below === undefined ? undefined : Math.floor((note - below - 1) / 2)
  return [Math.max(0, note - (down ?? up ?? 0)), Math.min(127, note + (up ?? down ?? 0))]
}

/** Velocities of every layer of a rising list of steps: up to its own, the last to 127. */
export const velocityReach = (
  steps: readonly number[],
  layer: number,
): readonly [low: number, high: number] => [
  layer === 0 ? 1 : steps[layer - 1]! + 1,
  layer === steps.length - 1 ? 127 : steps[layer]!,
]

const marksOf = ({ noteEnd, loop }: PartFacts): WavMark[] => [
  { frame: 0, name: 'note' },
  ...(loop
    ? [
        { frame: loop.start, name: 'loop start' },
        { frame: loop.end, name: 'loop end' },
      ]
    : []),
  ...(noteEnd === null ? [] : [{ frame: noteEnd, name: 'note end' }]),
]

const scaledBy = (x: Float32Array, gain: number): Float32Array => {
  if (gain === 1) return x
  const out = new Float32Array(x.length)
  for (let n = 0; n < x.length; n += 1) out[n] = x[n]! * gain
  return out
}

/** Bytes of a part's file, piece by piece. */
export function* wavPieces(
  { rate, channels }: Sound,
  facts: PartFacts,
  { kit }: Pick<KitPlan, 'kit'>,
  reach: Reach,
  gain: number,
): Generator<Uint8Array> {
  const { bits } = kit,
    frames = channels[0]!.length
  const shape: WavShape = { rate, channels: channels.length, frames, bits }
  const behind = wavChunks(
    {
      ...reach,
      marks: marksOf(facts),
      ...(facts.loop ? { loop: facts.loop } : {}),
    },
    rate,
  )
  yield wavHeader(shape, undefined, behind.length)
  const encoder = new WavEncoder(bits, seedOf(0, wavName(facts.name)))
  let odd = 0
  for (let at = 0; at < frames; at += PIECE) {
    const piece = channels.map((channel) => scaledBy(channel.subarray(at, at + PIECE), gain))
    const bytes = encoder.encode(piece, 0, piece[0]!.length)
    odd = (odd + bytes.length) % 2
    yield bytes
  }
  if (odd === 1) yield new Uint8Array(1)
  yield behind
}

/** What a job's files are for. */
export const reachOf = (kit: KitDescription, { note, layer }: KitJob): Reach => ({
  root: note,
  keys: keyReach(kit.notes, note),
  velocities: velocityReach(kit.velocities.map(velocityStep), layer),
})
