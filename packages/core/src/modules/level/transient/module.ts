import { help, input, number, output, share } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const transient: ModuleDescription = {
  type: 'transient',
  family: 'level',
  label: 'Transient',
  mark: 'M1 13h3V2c1 7 4 7 11 8',
  words: ['attack', 'punch', 'sustain', 'transient shaper', 'snap', 'softer'],
  help: help(
    'Stresses or softens how sounds begin and ring on',
    'Compares a fast and a slow measure of the level: where the fast one leads, something begins; where the slow one is left behind, something rings. It works at any loudness.',
    'Attack ±50 %, sustain ±50 %.',
    'Attack 50 % on a drum.',
  ),
  front: ['in', 'attack', 'sustain', 'out'],
  headline: ['attack', 'sustain'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [number('attack', -1, 1, 0, ''), number('sustain', -1, 1, 0, ''), share('mix', 1)],
  picture: 'signal',
  state: { flushed: ['fast', 'slow', 'tail'] },
  frames: 'sequential',
  bypass: { from: 'in', to: 'out' },
  cost: [83, 86, 83],
  bound: 34,
}
