import { choice, help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const amplifier: ModuleDescription = {
  type: 'amplifier',
  family: 'level',
  label: 'Amplifier',
  mark: 'M3 3v10l10-5z',
  short: 'amp',
  words: ['attenuate', 'vca', 'level', 'volume', 'gain', 'loudness'],
  help: help(
    'Turns a sound up and down by a signal',
    'Without a cable at cv it passes everything. With one, 0 is silence and 1 the set level; exponential makes equal steps sound equally loud.',
    'Level −12…0 dB.',
    'Connect an envelope to cv.',
  ),
  front: ['in', 'cv', 'level', 'out'],
  headline: ['level'],
  inputs: [input('in', 'audio'), input('cv', 'control', 'fully open')],
  outputs: [output('out', 'audio')],
  params: [
    number('level', -60, 12, 0, 'dB', { silence: -60 }),
    choice('response', ['linear', 'exponential']),
  ],
  // Worked out anew before a segment runs frame by frame.
  picture: 'signal',
  state: { kept: ['gain'] },
  bypass: { from: 'in', to: 'out' },
  closedBy: 'cv',
  cost: [5.2, 5, 4],
  bound: 3,
}
