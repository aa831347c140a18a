import { choice, help, input, number, output, share } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const lowpassgate: ModuleDescription = {
  type: 'lowpassgate',
  family: 'level',
  label: 'Low-pass gate',
  mark: 'M2 13V6c3 0 3-3 5-3 3 0 4 10 7 10z',
  words: ['vactrol', 'plucky', 'bongo', 'filter and level', 'natural'],
  help: help(
    'Closes filter and level together, like a struck body',
    'A trigger or a rising control opens it at once, and it closes slowly: bright things go dark before they end. Both moves filter and level, or one of them.',
    'Decay 0.1…1 s.',
    'Trigger it from a Euclidean rhythm.',
  ),
  front: ['in', 'trigger', 'decay', 'out'],
  headline: ['decay'],
  inputs: [input('in', 'audio'), input('cv', 'control'), input('trigger', 'gate')],
  outputs: [output('out', 'audio')],
  params: [
    number('decay', 0.01, 10, 0.4, 's', { log: true }),
    share('resonance', 0),
    choice('mode', ['both', 'filter', 'level']),
  ],
  picture: 'signal',
  state: { flushed: ['one', 'two', 'open'], kept: ['before', 'struck'] },
  frames: 'sequential',
  cost: [130, 120, 130],
  bound: 48,
}
