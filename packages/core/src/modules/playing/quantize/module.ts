import { choice, help, input, number, output } from '../../../describe/helpers.ts'
import { barPoints } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const quantize: ModuleDescription = {
  type: 'quantize',
  family: 'playing',
  label: 'Quantiser',
  mark: 'M1 14h4v-4h4V6h4V2h2M1 10L9 2',
  words: ['scale', 'quantizer', 'quantiser', 'notes', 'semitones', 'in key', 'chromatic'],
  help: help(
    'Puts a pitch on the notes of a scale',
    'Goes to the nearest allowed note (or the next one below or above). The twelve switches are counted from the root. With a cable at trigger it only follows at its rises; changed is a trigger at every new note. Shift is added to what comes out.',
    'Any scale of 1…12 notes.',
    'Send an LFO of two octaves through a five-note scale.',
  ),
  front: ['in', 'root', 'out', 'changed'],
  headline: ['root'],
  stays: 'all',
  inputs: [input('in', 'pitch'), input('trigger', 'gate', 'follows all the time'), input('shift', 'pitch')],
  outputs: [output('out', 'pitch'), output('changed', 'gate')],
  params: [
    number('root', 0, 11, 0, '', { whole: true, exact: true }),
    choice('direction', ['nearest', 'down', 'up'], 'nearest', {
      help: 'Exactly between two notes, nearest takes the higher one.',
    }),
  ],
  editor: { kind: 'scale' },
  data: [
    {
      name: 'scale',
      kind: 'booleans',
      length: 12,
      default: [true, true, true, true, true, true, true, true, true, true, true, true],
      rest: true,
    },
  ],
  table: (context) => {
    const scale = (context.data('scale') as unknown[]).map((on) => (on === true || on === 1 ? 1 : 0))
    while (scale.length < 12) scale.push(0)
    // An empty scale lets every note through.
    return Float32Array.from(scale.includes(1) ? scale : scale.map(() => 1))
  },
  picture: (context) => ({
    kind: 'bars',
    title: 'Notes of the scale, from the root',
    across: 'semitone',
    up: '',
    curves: [
      {
        points: barPoints(
          (context.data('scale') as unknown[]).map((on) => (on === true || on === 1 ? 1 : 0.08)),
        ),
      },
    ],
  }),
  state: { kept: ['before', 'note', 'started', 'changedLeft'] },
  frames: 'sequential',
  cost: [120, 130, 130],
  bound: 4,
  sounds: true,
}
