import { choice, help, input, number, output, share, toggle } from '../../../describe/helpers.ts'
import { numbersOf } from '../../../describe/lists.ts'
import { barPoints } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'
import { own } from '../../../units/own.ts'

const STEPS = 32
/** Rows of a step, and what an entry counts as that a list does not reach. */
const ROWS = [
  ['a', 0],
  ['b', 0],
  ['on', 1],
  ['chance', 1],
  ['repeat', 1],
  ['tie', 0],
  ['accents', 0],
] as const
const RANGES = ['semitones', 'unipolar', 'bipolar', 'octaves'] as const
/** Height of a bar within 0…1. */
const HEIGHT: Readonly<Record<string, (x: number) => number>> = {
  semitones: (x) => 0.5 + x / 48,
  unipolar: (x) => x,
  bipolar: (x) => 0.5 + x / 2,
  octaves: (x) => 0.5 + x / 8,
}

export const steps: ModuleDescription = {
  type: 'steps',
  family: 'playing',
  label: 'Steps',
  mark: 'M1 14V9h3v5M4 14V5h4v9M8 14v-7h3v7M11 14V3h4v11',
  words: ['sequencer', 'step sequence', 'step sequencer', 'pattern', 'melody', 'rhythm', 'ratchet', 'tie'],
  help: help(
    'A sequence of up to 32 steps',
    'Every rise of clock plays the next step; the first one after the start or a reset plays step 1. Two rows of values, each step on or off, with a chance, repeats within the step, a tie to the next one and an accent. Semitones come out as octaves. With keep, a and b stay where they are on steps that do not sound. Each row may have a length of its own: then it goes round by itself.',
    'Length 5, 7, 8, 16.',
    'Clock it with 1/8 and connect a to a pitch.',
  ),
  front: ['clock', 'length', 'a', 'gate'],
  headline: ['length', 'order'],
  stays: ['keep', 'rangeA', 'rangeB'],
  inputs: [input('clock', 'gate'), input('reset', 'gate')],
  outputs: [
    output('a', 'pitch'),
    output('b', 'control'),
    output('gate', 'gate'),
    output('trigger', 'gate'),
    output('accent', 'gate'),
    output('end', 'gate'),
  ],
  params: [
    number('length', 1, STEPS, 8, '', { whole: true, exact: true }),
    choice('order', ['forward', 'reverse', 'pendulum', 'random', 'walk']),
    share('gateLength', 0.5, 0.01, 1),
    choice('rangeA', RANGES),
    choice('rangeB', RANGES),
    toggle('keep', true),
  ],
  editor: { kind: 'rows', entry: 'step', length: 'length', lengths: 'lengths' },
  data: [
    { name: 'a', kind: 'numbers', length: STEPS, min: -1000, max: 1000, default: [], rest: 0 },
    { name: 'b', kind: 'numbers', length: STEPS, min: -1000, max: 1000, default: [], rest: 0 },
    { name: 'on', kind: 'booleans', length: STEPS, default: [], rest: true },
    { name: 'chance', kind: 'numbers', length: STEPS, min: 0, max: 1, default: [], rest: 1 },
    { name: 'repeat', kind: 'numbers', length: STEPS, min: 1, max: 8, default: [], rest: 1 },
    { name: 'tie', kind: 'booleans', length: STEPS, default: [], rest: false },
    { name: 'accents', kind: 'booleans', length: STEPS, default: [], rest: false },
    // Steps after which a row begins anew, in the order above; 0: with the sequence.
    { name: 'lengths', kind: 'numbers', length: ROWS.length, min: 0, max: STEPS, default: [], rest: 0 },
  ],
  // Seven values a step, in a row of eight: a, b, on, chance, repeat, tie, accent; behind all of them their own lengths.
  table: (context) => {
    const lists = ROWS.map(([name, rest]) => numbersOf(context.data(name), STEPS, rest)),
      lengths = numbersOf(context.data('lengths'), ROWS.length, 0)
    return Float32Array.from({ length: STEPS * 8 + 8 }, (_, i) =>
      i < STEPS * 8 ? (lists[i % 8]?.[i >> 3] ?? 0) : Math.round(lengths[i - STEPS * 8] ?? 0),
    )
  },
  picture: (context) => ({
    kind: 'steps',
    title: 'Values of row a',
    across: 'step',
    up: context.choice('rangeA'),
    curves: [
      {
        points: barPoints(
          numbersOf(context.data('a'), STEPS, 0)
            .slice(0, context.number('length'))
            .map((x, i) =>
              numbersOf(context.data('on'), STEPS, 1)[i] ? own(HEIGHT, context.choice('rangeA'))!(x) : 0,
            ),
        ),
      },
    ],
  }),
  state: {
    kept: [
      'before',
      'resetBefore',
      'step',
      'started',
      'direction',
      'count',
      'clocked',
      'period',
      'sounds',
      'tied',
      'part',
      'high',
      'triggerLeft',
      'endLeft',
      'played',
      'heard',
      'walked',
      'heardWalked',
    ],
  },
  tells: ['step'],
  frames: 'sequential',
  cost: [77, 180, 55],
  bound: 120,
  sounds: true,
}
