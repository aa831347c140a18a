import { help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const scope: ModuleDescription = {
  type: 'scope',
  family: 'looking',
  label: 'Scope',
  mark: 'M2 3h12v10H2zM2 8c2-4 4-4 6 0s4 4 6 0',
  words: ['oscilloscope', 'waveform', 'look', 'trace', 'two channels'],
  help: help(
    'Shows the wave that passes through',
    'What comes in goes out unchanged. The card draws it, with a second signal beside it; a cable at sync starts every picture at its rise.',
    'Window 2…100 ms.',
    'Put it behind the filter.',
  ),
  front: ['in', 'window', 'out'],
  headline: ['window'],
  stays: 'all',
  inputs: [input('in', 'audio'), input('second', 'audio'), input('sync', 'gate', 'the signal itself')],
  outputs: [output('out', 'audio')],
  params: [number('window', 0.5, 2000, 20, 'ms', { log: true })],
  picture: 'signal',
  frames: 'memoryless',
  bypass: { from: 'in', to: 'out' },
  cost: [2.7, 2.8, 2.1],
  bound: 1,
}
