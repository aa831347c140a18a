import { apart, bypassTo, EFFECT_SHAPE, mix } from '../../../describe/effects.ts'
import { help, input, number, output, share } from '../../../describe/helpers.ts'
import { drawn } from '../../../describe/pictures.ts'
import { nextPowerOfTwo } from '../../../describe/rings.ts'
import type { ModuleDescription } from '../../../describe/types.ts'
import { chainDelay, LOOSEST, spreadOf, STAGES, stretchOf, WAYS } from './tank.ts'

const LONGEST = Math.max(...WAYS.flat()) * LOOSEST
const FREE = 150

const ringOf = (sampleRate: number): number => nextPowerOfTwo(Math.ceil((LONGEST / 1000) * sampleRate) + FREE)

/** Echoes that the picture shows, over so many seconds. */
const SHOWN_ECHOES = 4,
  SHOWN_SECONDS = 0.4

export const spring: ModuleDescription = {
  type: 'spring',
  family: 'space',
  label: 'Spring',
  mark: 'M1 8h2l1-4 2 8 2-8 2 8 2-8 1 4h2',
  words: ['spring reverb', 'tank', 'chirp', 'twang', 'splash', 'boing', 'dispersion'],
  help: help(
    'The chirping echoes of steel springs',
    'Lows run along a spring faster than what is higher, so that every echo is a chirp, and each way there and back spreads it further. Tension makes them shorter and the chirps tighter; up to three springs of different lengths hang side by side, each with a left and a right of its own.',
    'Decay 1.5…3 s, two springs, mix 15…35 %.',
    'Three springs, tension 30 %, a hard struck sound.',
  ),
  front: ['in', 'decay', 'tension', 'mix', 'out'],
  headline: ['decay', 'tension'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [
    number('decay', 0.3, 8, 2.5, 's', {
      log: true,
      help: 'Time until the lows have lost 60 dB; what is higher loses it sooner.',
    }),
    share('tension', 0.5),
    number('springs', 1, 3, 2, '', { whole: true, help: 'Changes cross-fade over 20 ms.' }),
    mix(0.3),
    apart,
  ],
  shape: EFFECT_SHAPE,
  table: ({ sampleRate }) =>
    Float32Array.from([
      stretchOf(sampleRate),
      STAGES,
      ringOf(sampleRate),
      0,
      ...[0, 1].flatMap((bank) => [...WAYS[2 * bank]!, ...(WAYS[2 * bank + 1] ?? WAYS[2]!)]),
    ]),
  state: { flushed: ['filters*16'], kept: ['tanks*32'] },
  memory: ({ sampleRate }, voices) =>
    voices * 2 * 16 * ((STAGES + 1) * stretchOf(sampleRate) + ringOf(sampleRate)),
  picture: ({ number: value }) => {
    const tension = value('tension'),
      stretch = stretchOf(48000)
    const seconds = (hz: number, echo: number): number =>
      echo *
      ((WAYS[0]![0] / 1000) * LOOSEST ** (1 - 2 * tension) +
        chainDelay(drawn.cos((2 * Math.PI * hz * stretch) / 48000), stretch, spreadOf(tension)) / 48000)
    const top = 24000 / stretch
    return {
      kind: 'line',
      title: 'When each frequency of an echo comes, up to 4 kHz over 400 ms',
      across: 'time',
      up: 'frequency',
      curves: Array.from({ length: SHOWN_ECHOES }, (_, echo) => ({
        ...(echo === 0 ? { name: 'first' } : {}),
        points: Array.from({ length: 33 }, (_point, n) => (n / 32) * 0.97)
          .map((share_) => [seconds(share_ * top, echo + 1) / SHOWN_SECONDS, share_] as const)
          .filter(([at]) => at <= 1),
      })).filter(({ points }) => points.length > 1),
    }
  },
  bypass: bypassTo('out'),
  cost: [130, 510, 510],
  costlier: ({ number: value }) => (value('springs') > 2 ? 2 : 1),
  bound: 120,
}
