import { help, input, number, toggle } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const output: ModuleDescription = {
  type: 'output',
  family: 'routing',
  label: 'Output',
  mark: 'M1 8h7M5 5l3 3-3 3M10 4v8M13 2v12',
  short: 'out',
  words: ['out', 'speaker', 'audio output', 'master', 'main', 'audio out'],
  help: help(
    'Where the patch is heard',
    'Sums the voices and sends them through the ear guard to the speakers. Several outputs add up.',
    'Level −12…−3 dB leaves room for chords.',
    'Connect the last module to in.',
  ),
  front: ['in', 'level'],
  headline: ['level'],
  stays: 'all',
  inputs: [input('in', 'audio')],
  outputs: [],
  params: [
    number('level', -60, 12, -6, 'dB', { silence: -60 }),
    number('pair', 1, 4, 1, '', { setOnly: true, whole: true }),
    toggle('mono', false),
  ],
  picture: 'signal',
  shape: { sumsVoices: true, sides: 2 },
  role: 'output',
  needs: [{ any: ['in'], message: 'nothing is connected; nothing will be heard' }],
  cost: [13, 13, 0.0065],
  bound: 5,
}
