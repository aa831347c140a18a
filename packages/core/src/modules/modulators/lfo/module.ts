import {
  choice,
  frequency,
  help,
  input,
  level,
  NOTE_VALUES,
  output,
  seconds,
  share,
} from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const lfo: ModuleDescription = {
  type: 'lfo',
  family: 'modulators',
  label: 'LFO',
  mark: 'M1 8c2-7 5-7 7 0s5 7 7 0',
  words: ['low frequency', 'vibrato', 'tremolo', 'wobble', 'sweep', 'slow', 'make it wobble'],
  help: help(
    'Slow waves to move things with',
    'All shapes run from one phase. Sync ties one cycle to a note value of the transport; a rise at reset starts it over.',
    '0.05…1 Hz for slow movement, 4…7 Hz for vibrato.',
    'Connect out to a pitch or cutoff with a small amount.',
  ),
  front: ['rate', 'shape', 'out'],
  inputs: [input('reset', 'gate')],
  outputs: ['out', 'sine', 'triangle', 'saw', 'fall', 'square'].map((name) => output(name, 'control')),
  params: [
    frequency('rate', 1, 0.001, 200),
    choice('sync', ['off', ...NOTE_VALUES]),
    choice('shape', ['sine', 'triangle', 'saw', 'fall', 'square']),
    share('phase', 0),
    choice('polarity', ['bipolar', 'unipolar']),
    share('width', 0.5, 0.01, 0.99),
    seconds('fade', 20, 0),
    level(),
  ],
  state: { kept: ['high', 'low', 'resetBefore', 'age', 'offset', 'startsSeen'] },
  bounded: true,
  cost: [65, 64, 64],
  bound: 86,
  sounds: true,
}
