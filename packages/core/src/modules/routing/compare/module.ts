import { help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const compare: ModuleDescription = {
  type: 'compare',
  family: 'routing',
  label: 'Compare',
  mark: 'M12 3L4 8l8 5',
  words: ['comparator', 'threshold', 'above', 'below', 'gate from', 'square'],
  help: help(
    'Is a above b?',
    'Above is on while a is higher than b, below while it is lower. With hysteresis it only changes over when a has gone half of it past b, so that noise does not make it chatter. An unconnected b is the level set.',
    'Hysteresis 0…0.1.',
    'Compare an LFO with 0.5 to make a gate.',
  ),
  front: ['a', 'level', 'above', 'below'],
  headline: ['level'],
  inputs: [input('a', 'control'), input('b', 'control', 'the level set')],
  outputs: [output('above', 'gate'), output('below', 'gate')],
  params: [number('level', -10, 10, 0, ''), number('hysteresis', 0, 10, 0, '')],
  picture: 'signal',
  state: { kept: ['above', 'below'] },
  frames: 'sequential',
  cost: [0.57, 0.58, 0],
  bound: 8.3,
  sounds: true,
}
