import { choice, help, output, toggle } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const button: ModuleDescription = {
  type: 'button',
  family: 'playing',
  label: 'Button',
  mark: 'M3 8a5 5 0 1 0 10 0a5 5 0 1 0-10 0M6 8a2 2 0 1 0 4 0a2 2 0 1 0-4 0',
  words: ['press', 'trigger', 'switch', 'key', 'manual', 'toggle'],
  help: help(
    'A button to press',
    'Momentary is on while it is held, toggle changes over at every press. A computer key can press it. Trigger fires when it goes on.',
    'None.',
    'Connect trigger to the reset of a sequence.',
  ),
  front: ['on', 'gate', 'trigger'],
  headline: ['on'],
  stays: 'all',
  inputs: [],
  outputs: [output('gate', 'gate'), output('trigger', 'gate')],
  params: [
    choice('mode', ['momentary', 'toggle']),
    toggle('on', false),
    { kind: 'text', name: 'key', label: 'Key', default: '', setOnly: true },
  ],
  picture: 'signal',
  state: { kept: ['before', 'left'] },
  frames: 'sequential',
  cost: [1.2, 1.2, 0.012],
  bound: 2.1,
  sounds: true,
}
