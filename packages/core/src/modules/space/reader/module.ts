import { help, input, level, number, output, share, toggle } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'
import { bufferName, readingKind } from '../buffer/module.ts'

export const reader: ModuleDescription = {
  type: 'reader',
  family: 'space',
  label: 'Reader',
  mark: 'M2 12h12M8 3v6M5 6l3 3 3-3',
  words: ['second head', 'tape head', 'playback head', 'granular', 'scrub', 'tap', 'buffer'],
  help: help(
    'A further head on a buffer',
    'Begins at position and moves at its own speed through what the buffer of this name holds, round and round or once; a trigger begins anew. With a cable on offset it stands that many seconds behind the buffer’s own head instead, one sample at least: a tap on a tape. It sees what was recorded up to the sample before.',
    'Speed ±0.5, ±1, ±2; offset 0.05…2 s.',
    'A buffer that records, two readers at speed 0.5 and −1.',
  ),
  front: ['trigger', 'position', 'speed', 'out'],
  headline: ['position', 'speed'],
  stays: 'all',
  inputs: [input('trigger', 'gate', 'plays at once'), input('offset', 'control', 'moves by itself')],
  outputs: [output('out', 'audio'), output('end', 'gate')],
  params: [
    bufferName,
    toggle('loop', true),
    share('position', 0),
    number('speed', -4, 4, 1, ''),
    level(),
    readingKind,
  ],
  state: { kept: ['heads*16'] },
  shares: { as: 'guest', name: 'name' },
  sounds: true,
  picture: 'signal',
  cost: [30, 120, 120],
  bound: 60,
}
