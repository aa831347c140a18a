import {
  frequency,
  help,
  input,
  level,
  number,
  output,
  share,
  toggle,
  tuning,
} from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'
import {
  BUILT_IN,
  builtInTable,
  drawnWave,
  FRAME_FLOATS,
  LEVEL_OFFSETS,
  LEVELS,
  pointsOf,
  TABLES,
  tableFromSound,
} from './tables.ts'

/** Words before the frames: how many there are, floats of each, and per level its offset and points. */
const HEAD = 40
const headed = new Map<Float32Array, Float32Array>()

const withHead = (frames: Float32Array): Float32Array => {
  let table = headed.get(frames)
  if (!table) {
    table = new Float32Array(HEAD + frames.length)
    const whole = new Uint32Array(table.buffer)
    whole[0] = frames.length / FRAME_FLOATS
    whole[1] = FRAME_FLOATS
    for (let l = 0; l < LEVELS; l += 1) {
      whole[4 + 2 * l] = LEVEL_OFFSETS[l]!
      whole[5 + 2 * l] = pointsOf(l)
    }
    table.set(frames, HEAD)
    headed.set(frames, table)
  }
  return table
}

export const wavetable: ModuleDescription = {
  type: 'wavetable',
  family: 'sources',
  label: 'Wavetable',
  mark: 'M1 6c2-4 4-4 6 0h6M3 9c2-4 4-4 6 0h5M5 12c2-4 4-4 6 0h4',
  words: ['scan', 'morph', 'frames', 'digital', 'position', 'spectral'],
  help: help(
    'Scans through a table of waves',
    `Position moves through the frames of the table; output b reads it at position plus offset. Free of aliasing at any pitch. Built in: ${Object.entries(
      TABLES,
    )
      .map(([name, { words }]) => `${name} (${words})`)
      .join(
        ', ',
      )}. A WAV file of the patch serves as well, cut into frames of 2048, 1024, 512 or 256 samples.`,
    'Position moved by an envelope, an LFO or velocity.',
    'Table formant, position from a slow LFO.',
  ),
  front: ['pitch', 'position', 'a', 'b'],
  headline: ['position'],
  stays: ['frequency', 'tracking'],
  inputs: [
    input('pitch', 'pitch', 'the frequency field'),
    input('fm', 'audio'),
    input('hz', 'control'),
    input('phase', 'control'),
    input('sync', 'gate'),
    input('reset', 'gate'),
  ],
  outputs: [output('a', 'audio'), output('b', 'audio')],
  params: [
    share('position', 0),
    number('offset', -1, 1, 0, ''),
    ...tuning,
    toggle('tracking', true),
    frequency('frequency', 261.6256, 0.001, 20000, { factor: true }),
    level(),
  ],
  editor: { kind: 'table' },
  data: [{ name: 'table', kind: 'table', default: 'sweep', builtIn: BUILT_IN }],
  table: (context) => {
    const name = String(context.data('table')),
      sound = BUILT_IN.includes(name) ? undefined : context.asset(name)
    return withHead(sound ? tableFromSound(sound.channels[0]!) : builtInTable(name))
  },
  picture: (context) => {
    const name = String(context.data('table'))
    const own = BUILT_IN.includes(name) ? undefined : context.recording?.(name)?.samples
    return {
      kind: 'line',
      title: 'The wave at this position',
      across: 'time',
      up: 'level',
      curves: [
        {
          points: drawnWave(own ?? name, context.number('position')).map(
            (level, i, { length }) => [i / (length - 1), 0.5 + 0.47 * level] as const,
          ),
        },
      ],
    }
  },
  state: { kept: ['high', 'low', 'syncBefore', 'resetBefore', 'phaseBefore'] },
  cost: [170, 220, 220],
  bound: 46,
  sounds: true,
}
