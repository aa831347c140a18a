import { help, input, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const spectrum: ModuleDescription = {
  type: 'spectrum',
  family: 'looking',
  label: 'Spectrum',
  mark: 'M2 14V6M5 14V3M8 14V8M11 14v-4M14 14v-2',
  words: ['analyser', 'frequencies', 'partials', 'look'],
  help: help(
    'Shows the spectrum of what passes through',
    'What comes in goes out unchanged; the card draws its frequencies.',
    'None.',
    'Put it behind an FM voice to see its sidebands.',
  ),
  front: ['in', 'out'],
  headline: [],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [],
  picture: 'signal',
  frames: 'memoryless',
  bypass: { from: 'in', to: 'out' },
  cost: [2.4, 2.2, 2],
  bound: 1,
}
