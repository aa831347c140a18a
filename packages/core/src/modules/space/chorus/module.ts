import { apart, bypassTo, EFFECT_SHAPE, mix } from '../../../describe/effects.ts'
import { help, input, number, output, share } from '../../../describe/helpers.ts'
import { sides, SWEEP_STATE, sweepParams, sweptFrames } from '../../../describe/sweeps.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** Longest delay of a copy in milliseconds: the time, and nearly as much again. */
const LONGEST = 100

export const chorus: ModuleDescription = {
  type: 'chorus',
  family: 'space',
  label: 'Chorus',
  mark: 'M1 5c2-4 4-4 7 0s5 4 7 0M1 11c2-4 4-4 7 0s5 4 7 0',
  words: ['ensemble', 'doubling', 'thicken', 'vibrato', 'detune', 'wide', 'string machine'],
  help: help(
    'Adds copies of a sound that wander against it',
    'Each copy is late by the time, which a slow wave lengthens and shortens; the copies stand at different places of the wave, the sides as well. Feedback rings at 1 / time: without motion a chorus is a tuned metal body.',
    '5…20 ms, depth 10…40 %, 0.1…1 Hz. Under 1 ms with feedback for bodies.',
    'Three copies at 12 ms, mix 50 %.',
  ),
  front: ['in', 'time', 'depth', 'rate', 'mix', 'out'],
  headline: ['time', 'rate'],
  inputs: [input('in', 'audio'), input('reset', 'gate')],
  outputs: [output('out', 'audio')],
  params: [
    number('time', 0.1, 50, 12, 'ms', { log: true, time: true }),
    share('depth', 0.3),
    ...sweepParams,
    number('feedback', -0.99, 0.99, 0, ''),
    number('copies', 1, 6, 2, '', { whole: true, help: 'Changes come and go over 20 ms.' }),
    mix(0.5),
    apart,
  ],
  shape: EFFECT_SHAPE,
  state: { kept: [...SWEEP_STATE, 'weights*6', 'quiet', 'isStarted'] },
  memory: ({ sampleRate }, voices, sideCount) =>
    Math.ceil((voices * sideCount) / 4) * 16 * sweptFrames(LONGEST, sampleRate),
  picture: ({ number: value }) => ({
    kind: 'line',
    title: 'How late the first copy is, over one movement',
    across: 'movement',
    up: 'delay',
    curves: sides(
      value('spread'),
      (sine) => (value('time') * (1 + 0.9 * value('depth') * sine)) / (2 * value('time')),
    ),
  }),
  bypass: bypassTo('out'),
  cost: [138, 190, 190],
  costlier: ({ number: value }) => (1 + value('copies')) / 3,
  bound: 100,
}
