import { choice, help, input, level, number, output, seconds, share } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'
import { waveform } from '../../waveform.ts'
import { MOST_TURNS, MOST_ZONES, type Zone, zoneTable } from './zones.ts'

export const sampler: ModuleDescription = {
  type: 'sampler',
  family: 'sources',
  label: 'Sampler',
  mark: 'M2 3h4v10H2zM8 3h6v4H8zM8 9h6v4H8z',
  words: ['sample player', 'multisample', 'zones', 'keys', 'recorded instrument', 'round robin', 'layers'],
  help: help(
    'Plays recordings over the keyboard',
    'Every zone is a recording for some keys and velocities; zones that overlap sound together, those of one turn take turns. The note is read when the gate rises, the pitch all the time. What a zone leaves out comes from its file (root and loop) or from here. Loops run forward or to and fro, with a crossfade before their end.',
    'Attack 0…10 ms, release 50…300 ms.',
    'Three recordings an octave apart, keys between them.',
  ),
  front: ['pitch', 'gate', 'velocity', 'out'],
  headline: ['loop', 'release'],
  stays: ['loop', 'mode'],
  inputs: [input('pitch', 'pitch'), input('gate', 'gate'), input('velocity', 'control', '1')],
  outputs: [output('out', 'audio'), output('done', 'gate', 1)],
  params: [
    share('velocityAmount', 1),
    share('start', 0, 0, 1, { help: 'Where a recording begins, read when the gate rises.' }),
    share('end', 1),
    choice('loop', ['off', 'forward', 'pingpong']),
    share('loopStart', 0),
    share('loopEnd', 1),
    share('crossfade', 0, 0, 0.5, { help: 'As a share of the loop, before its end.' }),
    number('tune', -48, 48, 0, 'st'),
    number('fine', -100, 100, 0, 'ct'),
    choice('mode', ['gated', 'oneshot']),
    seconds('attack', 20, 0.001),
    seconds('decay', 20, 1),
    share('sustain', 1),
    seconds('release', 20, 0.15),
    level(),
  ],
  editor: { kind: 'zones' },
  data: [{ name: 'zones', kind: 'zones', length: MOST_ZONES, default: [] }],
  shape: { sides: 2 },
  table: zoneTable,
  state: { kept: ['voices*40'] },
  memory: () => 4 * MOST_TURNS,
  tells: ['head'],
  picture: ({ number: value, data, choice: word, recording, now }) => {
    const zones = data('zones'),
      [zone] = Array.isArray(zones) ? (zones as (Zone | null)[]) : []
    const place = (own: number | undefined, param: string): number => own ?? value(param)
    const isLooped = (zone?.loop ?? word('loop')) !== 'off'
    return waveform(
      zone?.asset === undefined ? undefined : recording?.(zone.asset),
      'Its first zone: where it begins, goes round and ends',
      [
        [place(zone?.start, 'start'), 'start'],
        ...(isLooped
          ? [
              [place(zone?.loopStart, 'loopStart'), 'loop'] as const,
              [place(zone?.loopEnd, 'loopEnd'), ''] as const,
            ]
          : []),
        [place(zone?.end, 'end'), 'end'],
      ],
      now?.('head')?.value,
    )
  },
  cost: [26, 52, 52],
  bound: 60,
}
