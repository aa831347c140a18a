import { apart, bypassTo, EFFECT_SHAPE, mix } from '../../../describe/effects.ts'
import { help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription, Picture } from '../../../describe/types.ts'
import { hilbertPair } from './hilbert.ts'

/** A made-up sound of six partials, to show where they go. */
const PARTIALS = [1, 2, 3, 4, 5, 6],
  FUNDAMENTAL = 440,
  WIDEST = 4000

const picture = (shift: number): Picture => {
  const bars = (moved: number): (readonly [number, number])[] =>
    PARTIALS.map(
      (n) => [Math.min(1, Math.abs(n * FUNDAMENTAL + moved) / WIDEST), 0.9 / Math.sqrt(n)] as const,
    )
  return {
    kind: 'bars',
    title: 'Six partials of 440 Hz before and after',
    across: 'frequency',
    up: 'level',
    curves: [
      { name: 'before', points: bars(0).map(([x, y]) => [x, 0.4 * y] as const) },
      { points: bars(shift) },
    ],
    marks: [
      [0.25, '1 kHz'],
      [0.5, '2 kHz'],
      [0.75, '3 kHz'],
    ],
  }
}

export const freqshift: ModuleDescription = {
  type: 'freqshift',
  family: 'space',
  label: 'Frequency shifter',
  mark: 'M2 13V6M5 13V9M8 13v-2M8 4h6m-3-3l3 3-3 3',
  words: ['freqshift', 'shift', 'single sideband', 'clangorous', 'detune', 'barber pole', 'hertz'],
  help: help(
    'Moves every partial by the same number of hertz',
    'Not a transposition: harmonics lose their ratios, so sounds turn to bells and metal. A few hertz make slow beats and endless rises inside a delay’s loop. Up and down are both sidebands by themselves; what is pushed below 0 Hz comes back up.',
    '0.1…5 Hz for drift, 20…200 Hz for metal, more for ruins.',
    'Shift 3 Hz, mix 50 %, for a chorus that only rises.',
  ),
  front: ['in', 'shift', 'up', 'down'],
  headline: ['shift', 'mix'],
  inputs: [input('in', 'audio')],
  outputs: [output('up', 'audio'), output('down', 'audio')],
  params: [number('shift', -5000, 5000, 0, 'Hz'), mix(1), apart],
  shape: EFFECT_SHAPE,
  state: { flushed: ['nodes*40', 'before'], kept: ['high', 'low', 'passed', 'pace'] },
  table: hilbertPair,
  picture: ({ number: value }) => picture(value('shift')),
  bypass: bypassTo('up'),
  cost: [78, 78, 78],
  bound: 60,
}
