import { apart, bypassTo, EFFECT_SHAPE, mix } from '../../../describe/effects.ts'
import {
  choice,
  frequency,
  help,
  input,
  NOTE_VALUES,
  number,
  output,
  share,
  toggle,
} from '../../../describe/helpers.ts'
import { nextPowerOfTwo } from '../../../describe/rings.ts'
import type { MemoryContext, ModuleDescription } from '../../../describe/types.ts'

/** Longest time in milliseconds; a synced one is halved until it fits. */
const LONGEST = 5000
/** The picture's width in echoes. */
const ECHOES = 8

/** Milliseconds there is memory for: twice what is asked for, so that it can be dragged a while before it needs more. */
const room = (context: MemoryContext): number =>
  context.choice('sync') === 'true' || context.most('sync') > 0
    ? LONGEST
    : Math.min(LONGEST, 2 * Math.max(250, context.most('left'), context.most('right')))

export const delay: ModuleDescription = {
  type: 'delay',
  family: 'space',
  label: 'Delay',
  mark: 'M2 13V3M6 13V6M10 13V9M14 13v-2',
  words: ['echo', 'ping-pong', 'tape echo', 'repeat', 'slap', 'dub', 'freeze', 'looper'],
  help: help(
    'Echoes: a stereo delay with all a finished effect needs',
    'Two times, by hand or tied to the beat, with feedback through low and high cut and a soft drive. Changes of a time glide in pitch as on tape, or fade over without a change of pitch. Ping-pong sends both sides into the left line, whose echo goes right, and on. Duck makes room while something plays; hold closes the input and lets what is there go round for ever.',
    '80…130 ms slap, 1/8. for rhythm; feedback 30…60 %, high cut 2…6 kHz.',
    'Sync on, left 1/8., right 1/4, feedback 45 %.',
  ),
  front: ['in', 'left', 'feedback', 'mix', 'out'],
  headline: ['left', 'feedback'],
  stays: ['hold'],
  inputs: [input('in', 'audio'), input('clear', 'gate')],
  outputs: [output('out', 'audio')],
  params: [
    number('left', 1, LONGEST, 375, 'ms', { log: true, time: true, exact: true }),
    number('right', 1, LONGEST, 375, 'ms', { log: true, time: true, exact: true }),
    toggle('sync', false),
    choice('leftNote', NOTE_VALUES, '1/8.', {
      help: 'Of the transport, where sync is on; above 5 s it is halved.',
    }),
    choice('rightNote', NOTE_VALUES, '1/8.'),
    toggle('link', true, 'Right as left'),
    share('feedback', 0.4, 0, 1.1),
    toggle('pingpong', false, 'Ping-pong'),
    frequency('low', 20, 20, 20000, { label: 'Low cut', help: 'Out of circuit at 20 Hz.' }),
    frequency('high', 20000, 20, 20000, { label: 'High cut', help: 'Out of circuit at 20 kHz.' }),
    number('drive', 0, 36, 0, 'dB'),
    share('motion', 0, 0, 1, { help: 'Wow of a worn tape: up to 4 ms to and fro, the sides apart.' }),
    frequency('motionRate', 0.5, 0.01, 20),
    share('duck', 0, 0, 1, { help: 'How far the echoes give way to what comes in: wholly at −12 dBFS.' }),
    choice('change', ['tape', 'fade'], 'tape', {
      help: 'How a time changes: with a glide of pitch, or by a fade from one place to the other.',
    }),
    number('smoothing', 0, 5000, 200, 'ms', { help: 'How long a change of a time takes.' }),
    toggle('hold', false),
    mix(0.3),
    apart,
  ],
  shape: EFFECT_SHAPE,
  state: {
    flushed: ['lows', 'highs', 'over*48', 'last'],
    kept: [
      'goal',
      'apartBy',
      'speed',
      'fadeFrom',
      'fadeTo',
      'faded',
      'held',
      'crossed',
      'level',
      'phase',
      'phaseLow',
      'passed',
      'pace',
      'clearBefore',
      'clearedAt',
      'isCleared',
      'isStarted',
      'quiet',
    ],
  },
  memory: (context, voices, sides) =>
    Math.ceil((voices * sides) / 4) *
    16 *
    nextPowerOfTwo(Math.ceil(((room(context) + 8) * context.sampleRate) / 1000) + 140),
  remarks: ({ number: value }) =>
    value('feedback') > 1
      ? [
          [
            'feedback',
            `${Math.round(100 * value('feedback'))} % is above 100 %: echoes grow until they are bent at +6 dBFS`,
          ],
        ]
      : [],
  picture: ({ number: value, choice: word }) => {
    const feedback = value('feedback'),
      isCrossed = word('pingpong') === 'true'
    const bars = (from: number, step: number): (readonly [number, number])[] =>
      Array.from({ length: ECHOES }, (_, n) => n)
        .filter((n) => n >= from && (n - from) % step === 0)
        .map((n) => [(n + 1) / (ECHOES + 0.5), Math.min(1, feedback ** n)] as const)
    return {
      kind: 'bars',
      title: 'Echoes of a click',
      across: 'time',
      up: 'level',
      curves: isCrossed
        ? [
            { name: 'left', points: bars(0, 2) },
            { name: 'right', points: bars(1, 2) },
          ]
        : [{ points: bars(0, 1) }],
    }
  },
  // The first two echoes: when they come, and how loud the second is to the first.
  handles: ({ number: value, choice: word }) => {
    const span = value('left') * (ECHOES + 0.5),
      isByHand = word('sync') !== 'true'
    const time = (x: number, echo: number): Record<string, number> =>
      isByHand ? { left: (x * span) / echo } : {}
    return [
      {
        name: 'Time',
        at: [1 / (ECHOES + 0.5), 1],
        shows: ['left'],
        moved: (x) => ({ params: time(x, 1) }),
      },
      {
        name: 'Time and feedback',
        at: [2 / (ECHOES + 0.5), Math.min(1, value('feedback'))],
        shows: ['left', 'feedback'],
        moved: (x, y) => ({ params: { ...time(x, 2), feedback: y } }),
      },
    ]
  },
  bypass: bypassTo('out'),
  cost: [132, 170, 170],
  bound: 100,
}
