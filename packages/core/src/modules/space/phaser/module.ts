import { apart, bypassTo, EFFECT_SHAPE, mix } from '../../../describe/effects.ts'
import { frequency, help, input, number, output, share } from '../../../describe/helpers.ts'
import { drawn, response, RESPONSE_MARKS } from '../../../describe/pictures.ts'
import { SWEEP_STATE, sweepParams } from '../../../describe/sweeps.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** Level in dB of direct and phased sound together: n all-passes of first order at a centre, with feedback around them. */
const level = (hz: number, centre: number, stages: number, feedback: number, mixed: number): number => {
  const turn = -2 * stages * drawn.atan(hz / centre)
  const re = drawn.cos(turn),
    im = drawn.sin(turn)
  // y = a / (1 - b a), a of size 1.
  const size = (1 - feedback * re) ** 2 + (feedback * im) ** 2
  const wetRe = (re * (1 - feedback * re) - im * feedback * im) / size,
    wetIm = (im * (1 - feedback * re) + re * feedback * im) / size
  return 20 * drawn.log10(Math.max(1e-4, drawn.hypot(1 - mixed + mixed * wetRe, mixed * wetIm)))
}

export const phaser: ModuleDescription = {
  type: 'phaser',
  family: 'space',
  label: 'Phaser',
  mark: 'M1 4c3 0 3 8 5 8s2-8 4-8 2 8 5 8',
  words: ['phase shifter', 'notches', 'sweep', 'swirl', 'vibe', 'stages'],
  help: help(
    'Moves notches through a sound that are no multiples of one another',
    'A chain of all-passes turns phases, more the higher; mixed with the direct sound every two stages make a notch. A slow wave moves them up to three octaves around the centre. Feedback makes peaks between the notches.',
    '4…8 stages, 0.1…1 Hz, feedback up to 80 %.',
    'Six stages at 800 Hz, depth 50 %, 0.3 Hz.',
  ),
  front: ['in', 'centre', 'depth', 'rate', 'feedback', 'out'],
  headline: ['stages', 'rate'],
  inputs: [input('in', 'audio'), input('reset', 'gate')],
  outputs: [output('out', 'audio')],
  params: [
    number('stages', 2, 16, 6, '', { whole: true, help: 'Changes cross-fade over 20 ms.' }),
    frequency('centre', 800, 20, 20000),
    share('depth', 0.5, 0, 1, { help: 'Of three octaves up and down.' }),
    ...sweepParams,
    number('feedback', -0.99, 0.99, 0, ''),
    mix(0.5),
    apart,
  ],
  shape: EFFECT_SHAPE,
  state: {
    flushed: ['passes*16'],
    kept: [...SWEEP_STATE, 'stages*4'],
  },
  picture: ({ number: value }) => ({
    kind: 'line',
    title: 'Response in the middle of its movement, −48…+24 dB',
    across: 'frequency',
    up: 'level',
    curves: [
      {
        points: response((hz) =>
          level(hz, value('centre'), Math.round(value('stages')), value('feedback'), value('mix')),
        ),
      },
    ],
    marks: RESPONSE_MARKS,
  }),
  bypass: bypassTo('out'),
  cost: [124, 124, 124],
  costlier: ({ number: value }) => (10 + value('stages')) / 16,
  bound: 90,
}
