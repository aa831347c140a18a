import { choice, help, input, level, number, output, share, toggle } from '../../../describe/helpers.ts'
import { assetParam, recordingTable } from '../../recordings.ts'
import { type Mark, waveform } from '../../waveform.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** More slices than these are not drawn. */
const MOST_MARKED = 32

export const player: ModuleDescription = {
  type: 'player',
  family: 'sources',
  label: 'Player',
  mark: 'M3 3l10 5-10 5z',
  words: ['audio file', 'recording', 'sample', 'loop', 'slices', 'tape', 'wav', 'break'],
  help: help(
    'Plays a recording: for testing effects, or cut into slices',
    'Without a cable on trigger it plays from the start; with one it waits for a rise, which also picks a slice. At speed 1 it is the recording itself, sample by sample; negative speeds play backwards. With sync a loop keeps to the tempo: beats says how long it is, and 0 guesses that from its length.',
    'Speed ±1; slices 8 or 16 for drums.',
    'A loop with sync on, slices 8, slice from a random source.',
  ),
  front: ['trigger', 'slice', 'speed', 'out'],
  headline: ['asset', 'speed'],
  stays: ['speed', 'loop', 'sync', 'beats'],
  inputs: [input('trigger', 'gate', 'plays at once'), input('reset', 'gate'), input('slice', 'control')],
  outputs: [output('out', 'audio'), output('start', 'gate', 1), output('done', 'gate', 1)],
  params: [
    assetParam,
    toggle('loop', true),
    number('speed', -4, 4, 1, ''),
    share('from', 0),
    share('to', 1),
    number('slices', 0, 64, 0, '', { whole: true, help: 'So many equal pieces; 0 leaves it whole.' }),
    choice('sync', ['off', 'tempo']),
    number('beats', 0, 256, 0, '', { help: 'Its length for sync; 0 guesses it.' }),
    level(),
  ],
  shape: { sides: 2 },
  table: (context) => recordingTable(context.asset(context.choice('asset')), context.sampleRate),
  state: { kept: ['players*8'] },
  sounds: true,
  tells: ['head'],
  editor: { kind: 'recording' },
  picture: ({ number: value, choice: word, recording, now }) => {
    const from = Math.min(value('from'), value('to')),
      to = Math.max(value('from'), value('to')),
      slices = Math.round(value('slices'))
    return waveform(
      recording?.(word('asset')),
      'The recording and the part of it that plays',
      [
        [from, 'from'],
        ...Array.from({ length: Math.max(0, Math.min(MOST_MARKED, slices) - 1) }, (_, n): Mark => [
          from + ((to - from) * (n + 1)) / slices,
          '',
        ]),
        [to, 'to'],
      ],
      now?.('head')?.value,
    )
  },
  remarks: ({ choice: word }) =>
    word('asset') === '' ? [['asset', 'no recording is chosen: it is silent']] : [],
  cost: [35, 140, 140],
  bound: 40,
}
