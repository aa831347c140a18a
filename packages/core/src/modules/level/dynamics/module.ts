import { help, input, number, output, positive, share } from '../../../describe/helpers.ts'
import { sampled } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const dynamics: ModuleDescription = {
  type: 'dynamics',
  family: 'level',
  label: 'Dynamics',
  mark: 'M2 14l6-6 6-2M2 8h2M8 14v-2',
  words: ['compressor', 'sidechain', 'noise gate', 'expander', 'gate', 'ducking', 'limiter', 'glue'],
  help: help(
    'Evens loudness out, or widens it',
    'Above the threshold every decibel more comes out as 1/ratio decibels; a ratio below 1 expands: what is below the threshold gets quieter still. The knee softens the bend. A cable at side is listened to instead of in. Lookahead lets it act before a peak, at the cost of as much delay. Reduction is how many decibels it takes off, per 60.',
    'Threshold −24…−6 dB, ratio 2…6, attack 5…30 ms, release 80…300 ms.',
    'Ratio 4 at −18 dB, makeup 4 dB.',
  ),
  front: ['in', 'threshold', 'ratio', 'makeup', 'out'],
  headline: ['threshold', 'ratio'],
  inputs: [input('in', 'audio'), input('side', 'audio', 'in')],
  outputs: [output('out', 'audio'), positive('reduction')],
  params: [
    number('threshold', -60, 0, -18, 'dB'),
    number('ratio', 0.1, 100, 4, '', { log: true }),
    number('attack', 0.05, 500, 10, 'ms', { log: true }),
    number('release', 1, 5000, 150, 'ms', { log: true }),
    number('knee', 0, 24, 6, 'dB'),
    number('makeup', -24, 36, 0, 'dB'),
    share('mix', 1),
    number('lookahead', 0, 20, 0, 'ms', { setOnly: true }),
  ],
  picture: (context) => {
    const t = context.number('threshold'),
      r = context.number('ratio'),
      w = Math.max(context.number('knee'), 1e-6)
    const over = (x: number): number =>
      r >= 1
        ? x < -w / 2
          ? 0
          : x > w / 2
            ? x
            : (x + w / 2) ** 2 / (2 * w)
        : -(x > w / 2 ? 0 : x < -w / 2 ? -x : (w / 2 - x) ** 2 / (2 * w))
    return {
      kind: 'line',
      title: 'Level out over level in, −60…0 dB',
      across: 'in',
      up: 'out',
      curves: [
        {
          points: sampled((x) => {
            const db = x * 60 - 60
            return (60 + db + over(db - t) * (1 / r - 1)) / 60
          }),
        },
      ],
      marks: [[(t + 60) / 60, 'threshold']],
    }
  },
  state: { flushed: ['change', 'peak'], kept: ['hold'] },
  memory: (context, voices, sides) =>
    context.number('lookahead') > 0 ? Math.ceil((voices * sides) / 4) * 16 * 4096 : 0,
  bypass: { from: 'in', to: 'out' },
  latency: (context) => Math.round((context.number('lookahead') / 1000) * context.sampleRate),
  cost: [140, 140, 140],
  bound: 48,
}
