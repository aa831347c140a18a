import { help, input, number, output, share } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

const POINTS = 1024
/** From the bottom of the picture to its top. */
const SPAN = 2.2
const MOST_HANDLES = 17

/** The drawn values at x within −1…1, straight between them. */
const valueAt = (list: readonly number[], x: number): number => {
  if (list.length === 0) return x
  const place = ((x + 1) / 2) * (list.length - 1),
    i = Math.min(list.length - 1, Math.max(0, Math.floor(place)))
  return list[i]! + ((list[i + 1] ?? list[i]!) - list[i]!) * (place - i)
}

export const shaper: ModuleDescription = {
  type: 'shaper',
  family: 'level',
  label: 'Shaper',
  mark: 'M2 14L14 2M2 14C2 6 14 10 14 2',
  words: ['waveshaper', 'drawn curve', 'wave shaper', 'transfer function', 'distortion', 'chebyshev'],
  help: help(
    'A drawn curve from in to out',
    'What comes in, −1…1, is replaced by what the curve says; beyond its ends the curve goes on level. The values are spread evenly from −1 to 1. Oversampled, constant parts taken out.',
    'Gain 0…12 dB.',
    'Draw a staircase.',
  ),
  front: ['in', 'gain', 'out'],
  headline: ['gain'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [number('gain', -24, 48, 0, 'dB'), share('mix', 1)],
  editor: { kind: 'transfer' },
  data: [{ name: 'curve', kind: 'numbers', length: 2048, min: -4, max: 4, default: [-1, 1] }],
  // The curve at evenly spaced x, each with the integral of the curve up to there.
  table: (context) => {
    const list = context.data('curve') as number[],
      step = 2 / POINTS
    const table = new Float32Array((POINTS + 2) * 2)
    let sum = 0
    for (let i = 0; i <= POINTS + 1; i += 1) {
      const y = valueAt(list, Math.min(1, -1 + i * step))
      if (i > 0) sum += 0.5 * step * (y + valueAt(list, Math.min(1, -1 + (i - 1) * step)))
      table[2 * i] = y
      table[2 * i + 1] = sum
    }
    return table
  },
  picture: (context) => ({
    kind: 'line',
    title: 'What comes out over what comes in',
    across: 'in',
    up: 'out',
    curves: [
      {
        points: Array.from(
          { length: 129 },
          (_, i) =>
            [
              i / 128,
              Math.min(1, Math.max(0, 0.5 + valueAt(context.data('curve') as number[], i / 64 - 1) / SPAN)),
            ] as const,
        ),
      },
    ],
  }),
  handles: (context) => {
    const list = context.data('curve') as number[]
    // More than can be told apart are drawn as a whole.
    if (list.length < 2 || list.length > MOST_HANDLES) return []
    return list.map((value, n) => ({
      name: `Value ${n + 1}`,
      at: [n / (list.length - 1), Math.min(1, Math.max(0, 0.5 + value / SPAN))] as const,
      shows: [],
      moved: (_x: number, y: number) => ({
        data: { curve: list.map((other, at) => (at === n ? (y - 0.5) * SPAN : other)) },
      }),
    }))
  },
  state: { flushed: ['over*48', 'dry*48', 'last*2', 'dc'], kept: [] },
  bypass: { from: 'in', to: 'out' },
  latency: () => 3,
  cost: [230, 230, 240],
  bound: 91,
  sounds: true,
}
