/** A looper in a patch, its gates pressed by keys, for tests. */
import { hear, patchOf } from './bench.ts'
import { RATE } from './effects.ts'
import { Dice } from '../units/dice.ts'

export type Params = Record<string, number | string | boolean>
export const FADE = Math.round(0.005 * RATE)
export const noise = (seconds: number, seed = 3): Float32Array => {
  const dice = new Dice(seed)
  return Float32Array.from({ length: Math.round(seconds * RATE) }, () => dice.unit() - 0.5)
}

/** Keys that press each gate of the buffer. */
export const KEYS = { record: 40, clear: 42, play: 44, undo: 46, reset: 48 }
export type Gate = keyof typeof KEYS

/** A buffer with what comes in from outside, its gates pressed by keys; taps of it and of further modules. */
export const looper = (
  sound: Float32Array | readonly [Float32Array, Float32Array],
  play: string,
  params: Params = {},
  more: {
    readonly gates?: readonly Gate[]
    readonly modules?: Parameters<typeof patchOf>[0]
    readonly cables?: readonly string[]
    readonly taps?: readonly string[]
    readonly tempo?: number
  } = {},
): ((port: string) => readonly Float32Array[]) => {
  const [left, right] = sound instanceof Float32Array ? [sound, sound] : sound
  const gates = more.gates ?? ['record', 'undo']
  const heard = hear(
    patchOf(
      [
        ['i', 'input'],
        ['b', 'buffer', { length: 4, ...params }],
        ...gates.map(
          (gate) => [gate, 'notes', { lowKey: KEYS[gate], highKey: KEYS[gate] }] as [string, string, Params],
        ),
        ...(more.modules ?? []),
        ['o', 'output'],
      ],
      [
        'i.out > b.in',
        ...gates.map((gate) => `${gate}.gate > b.${gate}`),
        'b.out > o.in',
        ...(more.cables ?? []),
      ],
      more.tempo === undefined ? {} : { tempo: more.tempo },
    ),
    left.length / RATE,
    {
      input: { rate: RATE, channels: [left, right] },
      taps: ['b.out', 'b.head', 'b.end', 'record.gate', ...(more.taps ?? [])],
      play,
    },
  )
  return heard.lanes
}

export const press = (gate: Gate, at: number, length: number): string => `${KEYS[gate]}@${at}+${length}`
/** Frames at which a gate rose and fell. */
export const edges = (gate: Float32Array): number[] =>
  [...gate.keys()].filter((n) => gate[n]! > 0.5 !== (gate[n - 1] ?? 0) > 0.5)
