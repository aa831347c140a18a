import { apart, bypassTo, EFFECT_SHAPE, mix } from '../../../describe/effects.ts'
import { help, input, number, output, share, toggle } from '../../../describe/helpers.ts'
import { sides, SWEEP_STATE, sweepParams, sweptFrames } from '../../../describe/sweeps.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** Longest delay in milliseconds: twice the time. */
const LONGEST = 40

export const flanger: ModuleDescription = {
  type: 'flanger',
  family: 'space',
  label: 'Flanger',
  mark: 'M1 12c3-12 4-12 7 0M5 12c3-12 4-12 7 0M9 12c3-12 4-12 6-4',
  words: ['flange', 'jet', 'comb', 'through zero', 'tape', 'swoosh', 'sweep'],
  help: help(
    'Sweeps a comb of notches through a sound',
    'The sound and itself a little later cancel at regular distances; a slow wave moves them. Feedback makes them sharp, negative feedback hollow. With zero the direct sound is late by the time as well, and the copy passes it: the notches run out of the top and come back.',
    '0.5…5 ms, depth 50…100 %, 0.05…0.5 Hz, feedback ±70 %.',
    'Zero on, depth 100 %, 0.1 Hz.',
  ),
  front: ['in', 'time', 'depth', 'rate', 'feedback', 'out'],
  headline: ['time', 'rate'],
  inputs: [input('in', 'audio'), input('reset', 'gate')],
  outputs: [output('out', 'audio')],
  params: [
    number('time', 0.05, 20, 3, 'ms', { log: true, time: true }),
    share('depth', 0.5),
    ...sweepParams,
    number('feedback', -0.99, 0.99, 0, ''),
    { ...toggle('zero', false, 'Through zero'), setOnly: true },
    mix(0.5),
    apart,
  ],
  shape: EFFECT_SHAPE,
  state: { kept: [...SWEEP_STATE, 'quiet'] },
  memory: ({ choice, sampleRate }, voices, sideCount) =>
    Math.ceil((voices * sideCount) / 4) *
    16 *
    sweptFrames(LONGEST, sampleRate) *
    (choice('zero') === 'true' ? 2 : 1),
  latency: ({ choice, number: value, sampleRate }) =>
    choice('zero') === 'true' ? Math.round((value('time') * sampleRate) / 1000) : 0,
  picture: ({ number: value, choice }) => ({
    kind: 'line',
    title: 'How late the copy is, over one movement',
    across: 'movement',
    up: 'delay',
    curves: [
      ...sides(
        value('spread'),
        (sine) => 0.5 * (1 + (choice('zero') === 'true' ? 1 : 0.95) * value('depth') * sine),
      ),
      ...(choice('zero') === 'true'
        ? [{ name: 'direct', points: [[0, 0.5] as const, [1, 0.5] as const] }]
        : []),
    ],
  }),
  bypass: bypassTo('out'),
  cost: [85, 115, 115],
  bound: 65,
}
