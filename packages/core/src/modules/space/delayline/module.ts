import { choice, help, input, number, output, share } from '../../../describe/helpers.ts'
import { nextPowerOfTwo, ringFrames } from '../../../describe/rings.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** In the picture: so many echoes, and how high a tap stands. */
const ECHOES = 4,
  TAP_HEIGHT = 0.3

export const delayline: ModuleDescription = {
  type: 'delayline',
  family: 'space',
  label: 'Delay line',
  mark: 'M1 12V4M6 12V6M10 12V8M14 12v-2M1 14h14',
  short: 'line',
  words: ['raw delay', 'echo', 'feedback', 'string', 'waveguide', 'tap', 'samples', 'pitch'],
  help: help(
    'A raw delay, exact to the sample',
    'Holds back what comes in by exactly the time set, also inside a loop: there is no hidden sample. With unit pitch it holds one period of the pitch input, so a loop through it is a string in tune; trim takes off what else delays in the loop.',
    '1…20 ms colours, 20…60 ms doubles, 100 ms and more echoes. Feedback 0.3…0.7 for echoes, 0.99 for strings.',
    'Set 375 ms and feedback 50 %.',
  ),
  front: ['in', 'time', 'feedback', 'out'],
  headline: ['time', 'feedback'],
  inputs: [input('in', 'audio'), input('pitch', 'pitch'), input('offset', 'control')],
  outputs: [output('out', 'audio'), ...[1, 2, 3, 4].map((n) => output(`tap${n}`, 'audio'))],
  params: [
    choice('unit', ['ms', 'samples', 'pitch'], 'ms', { setOnly: true }),
    number('time', 0, 10000, 250, 'ms', {
      time: true,
      exact: true,
      follows: {
        choice: 'unit',
        ranges: { samples: { min: 1, max: 480000, unit: 'samples' } },
      },
    }),
    number('trim', -64, 64, 0, 'samples', {
      help: 'Taken off the delay: what else in a loop delays. The check of the patch says how much that is.',
    }),
    number('max', 0.01, 60, 10, 's', {
      setOnly: true,
      help: 'Longest delay there is memory for. Left alone, as much as the patch can reach.',
    }),
    choice('interpolation', ['none', 'linear', 'cosine', 'cubic', 'spline', 'allpass'], 'cubic', {
      setOnly: true,
    }),
    number('feedback', -1.2, 1.2, 0, ''),
    ...[1, 2, 3, 4].map((n) => share(`at${n}`, n / 4, 0, 1, { label: `Tap ${n} at` })),
    number('smoothing', 0, 2000, 20, 'ms', {
      help: 'How long a change of the time takes. Pitch, offset and trim act at once.',
    }),
  ],
  stages: [
    {
      name: 'read',
      reads: ['pitch', 'offset', 'time', 'trim', 'smoothing', 'at1', 'at2', 'at3', 'at4'],
      writes: ['out', 'tap1', 'tap2', 'tap3', 'tap4'],
      reportsDelay: true,
    },
    { name: 'write', reads: ['in', 'feedback'], writes: [] },
  ],
  state: { flushed: ['behind', 'allpass*5'], kept: ['target', 'started'] },
  memory: (context, voices, sides) => {
    const groups = Math.ceil((voices * sides) / 4)
    const { sampleRate } = context
    const frames = context.isSet('max')
      ? nextPowerOfTwo(Math.ceil(context.number('max') * sampleRate) + 136)
      : ringFrames(
          context,
          context.number('max'),
          (context.most('offset') * sampleRate) / 1000 + Math.abs(context.most('trim')),
        )
    return groups * (2048 + 16 * frames)
  },
  bypass: { from: 'in', to: 'out' },
  delay: (context) => {
    const unit = context.choice('unit')
    if (unit === 'pitch') return undefined
    const time = context.number('time') * (unit === 'samples' ? 1 : context.sampleRate / 1000)
    return Math.max(1, time - context.number('trim'))
  },
  remarks: ({ number: value, choice: word, isSet }) => {
    const found: (readonly [string, string])[] = []
    const feedback = value('feedback')
    if (Math.abs(feedback) > 1)
      found.push(['feedback', `${feedback} is above 1: what goes round grows until it is bent at +12 dBFS`])
    const unit = word('unit') === 'samples' ? 'samples' : 'ms',
      max = value('max')
    if (isSet('max') && word('unit') !== 'pitch' && value('time') > max * (unit === 'ms' ? 1000 : 48000))
      found.push([
        'time',
        `${value('time')} ${unit} is above its max of ${max} s: it delays by no more than that`,
      ])
    return found
  },
  picture: ({ number }) => {
    const feedback = Math.abs(number('feedback'))
    // Echoes go on to the right as long as they can be seen.
    const echoes = feedback > 0.02 ? ECHOES : 1
    return {
      kind: 'bars',
      title: 'Taps and echoes',
      across: 'time',
      up: 'level',
      curves: [
        {
          points: Array.from({ length: echoes }, (_, n) => [
            (n + 1) / (echoes + 0.5),
            Math.min(1, feedback ** n),
          ]),
        },
        {
          name: 'taps',
          points: [1, 2, 3, 4].map((n) => [number(`at${n}`) / (echoes + 0.5), TAP_HEIGHT]),
        },
      ],
    }
  },
  cost: [110, 110, 110],
  bound: 33,
}
