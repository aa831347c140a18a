import { help, input, number, output, positive } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const follower: ModuleDescription = {
  type: 'follower',
  family: 'modulators',
  label: 'Follower',
  mark: 'M1 12c2-8 3-8 5-4s2 2 4-1 3 4 5 5M3 14v-2M6 14V9M9 14V9M12 14v-3',
  words: ['envelope follower', 'level to control', 'sidechain', 'detector', 'audio to gate'],
  help: help(
    'How loud something is, as control',
    'Follows the peaks of in: up with the attack, down with the release (time constants). Gate is on while it is above the threshold, and off again 3 dB below it.',
    'Attack 1…20 ms, release 50…300 ms.',
    'Let the input open a filter.',
  ),
  front: ['in', 'attack', 'release', 'env', 'gate'],
  headline: ['attack', 'release'],
  inputs: [input('in', 'audio')],
  outputs: [positive('env'), output('gate', 'gate')],
  params: [
    number('attack', 0.1, 1000, 5, 'ms', { log: true }),
    number('release', 1, 5000, 120, 'ms', { log: true }),
    number('threshold', -60, 0, -30, 'dB'),
    number('gain', -24, 48, 0, 'dB'),
  ],
  picture: 'signal',
  state: { flushed: ['level'], kept: ['open'] },
  frames: 'sequential',
  cost: [91, 92, 90],
  bound: 30,
}
