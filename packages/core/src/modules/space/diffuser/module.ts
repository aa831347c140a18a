import { apart, bypassTo, EFFECT_SHAPE, mix } from '../../../describe/effects.ts'
import { choice, help, input, number, output, share, toggle } from '../../../describe/helpers.ts'
import { nextPowerOfTwo } from '../../../describe/rings.ts'
import type { ModuleDescription } from '../../../describe/types.ts'
import { ratioTable, stageRatio, STAGES } from './ratios.ts'

/** A chain for pictures: the places and sizes of the echoes of a click after so many stages, up to a few. */
const MOST_ECHOES = 160

const echoes = (ratios: readonly number[], gain: number): (readonly [number, number])[] => {
  let found = new Map<number, number>([[0, 1]])
  for (const ratio of ratios) {
    const next = new Map<number, number>()
    const put = (at: number, size: number): void => {
      const place = Math.round(at * 400) / 400
      if (place <= 4) next.set(place, (next.get(place) ?? 0) + size)
    }
    for (const [at, size] of found) {
      put(at, gain * size)
      for (let n = 1, part = (1 - gain * gain) * size; n <= 4; n += 1, part *= -gain)
        put(at + n * ratio, part)
    }
    found = new Map([...next].sort((a, b) => Math.abs(b[1]) - Math.abs(a[1])).slice(0, MOST_ECHOES))
  }
  const most = Math.max(1e-6, ...[...found.values()].map(Math.abs))
  return [...found]
    .sort(([a], [b]) => a - b)
    .map(([at, size]) => [Math.min(1, (at + 0.02) / 4.04), Math.abs(size) / most] as const)
}

export const diffuser: ModuleDescription = {
  type: 'diffuser',
  family: 'space',
  label: 'Diffuser',
  mark: 'M1 14V2M4 14V6M6 14V8M8 14v-4M10 14v-5M12 14v-3M14 14v-4',
  words: ['all-pass chain', 'smear', 'blur', 'density', 'schroeder', 'room', 'early', 'diffusion', 'nested'],
  help: help(
    'Turns one sound into a cloud of echoes, without colour',
    'Up to sixteen all-passes in a row: every stage passes all frequencies at their level and multiplies the echoes. Spread makes the stages shorter one after another; unrelated ratios keep echoes from falling on one another. Nested puts each stage into the delay of the one before. Every stage goes out by itself.',
    '4…10 stages, 5…50 ms, gain 0.5…0.75.',
    'Eight stages at 20 ms, unrelated, mix 50 %.',
  ),
  front: ['in', 'stages', 'time', 'gain', 'out'],
  headline: ['stages', 'time'],
  inputs: [input('in', 'audio')],
  outputs: [
    output('out', 'audio'),
    ...Array.from({ length: STAGES }, (_, n) => output(`stage${n + 1}`, 'audio')),
  ],
  params: [
    number('stages', 0, STAGES, 5, '', { whole: true, help: 'Changes cross-fade over 20 ms.' }),
    number('time', 0.1, 500, 30, 'ms', { log: true, time: true }),
    share('spread', 0.5, 0, 1, {
      help: 'At 0 all stages have the time, at 1 each is shorter than the one before.',
    }),
    number('gain', -0.95, 0.95, 0.7, ''),
    choice('ratio', ['shared', 'unrelated'], 'shared', {
      help: 'Shared: the times have a common measure. Unrelated: they have none.',
    }),
    { ...toggle('nested', false), setOnly: true },
    number('input', -48, 24, 0, 'dB'),
    number('wet', -48, 24, 0, 'dB'),
    number('dryPan', -1, 1, 0, ''),
    number('wetPan', -1, 1, 0, ''),
    mix(1),
    apart,
  ],
  shape: EFFECT_SHAPE,
  table: ratioTable,
  state: {
    kept: ['behind*16', 'goals*16', 'began*16', 'ran', 'count*4', 'quiet'],
  },
  memory: (context, voices, sides) =>
    Math.ceil((voices * sides) / 4) *
    16 *
    STAGES *
    nextPowerOfTwo(
      Math.ceil(Math.min(500, Math.max(40, 2 * context.most('time'))) * (context.sampleRate / 1000)) + 144,
    ),
  picture: ({ number: value, choice: word }) => ({
    kind: 'bars',
    title: 'Echoes of a click',
    across: 'time',
    up: 'size',
    curves: [
      {
        points: echoes(
          Array.from({ length: Math.round(value('stages')) }, (_, n) =>
            stageRatio(n, value('spread'), word('ratio') === 'unrelated'),
          ),
          value('gain'),
        ),
      },
    ],
    marks: [
      [0.25, '× 1'],
      [0.5, '× 2'],
      [0.75, '× 3'],
    ],
  }),
  remarks: ({ number: value }) =>
    Math.round(value('stages')) === 0 ? [['stages', 'no stage is in use: it passes what comes in']] : [],
  bypass: bypassTo('out'),
  cost: [85, 90, 90],
  costlier: ({ number: value }) => (2 + value('stages')) / 7,
  bound: 70,
}
