import { help, input, number, output, share } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const crush: ModuleDescription = {
  type: 'crush',
  family: 'level',
  label: 'Crush',
  mark: 'M1 12h3V9h3V5h3V3h5',
  words: [
    'bitcrusher',
    'sample rate',
    'bit crusher',
    'bit reduction',
    'lo-fi',
    'digital',
    'quantise',
    'downsample',
  ],
  help: help(
    'Fewer bits and a lower sample rate',
    'Rounds every sample to so many bits and holds it for as long as a lower rate would: aliasing on purpose. Bits may be broken numbers and be modulated.',
    'Bits 4…12, rate 2…16 kHz.',
    'Bits 8 and rate 11 kHz.',
  ),
  front: ['in', 'bits', 'rate', 'out'],
  headline: ['bits', 'rate'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [
    number('bits', 1, 24, 12, ''),
    number('rate', 100, 48000, 48000, 'Hz', { log: true }),
    share('mix', 1),
  ],
  picture: 'signal',
  state: { flushed: ['held', 'before'], kept: ['high', 'low', 'started'] },
  frames: 'sequential',
  bypass: { from: 'in', to: 'out' },
  cost: [53, 53, 54],
  bound: 19,
}
