import { apart, bypassTo, EFFECT_SHAPE, mix } from '../../../describe/effects.ts'
import { help, input, number, output, share } from '../../../describe/helpers.ts'
import { drawn } from '../../../describe/pictures.ts'
import type { ModuleDescription, Picture, PictureContext } from '../../../describe/types.ts'
import { recordingParam } from '../../recordings.ts'
import { lineBytes, LONGEST_SECONDS, PREDELAY_MS, responseTable } from './response.ts'
import { SPACE_NAMES, spaceNamed } from './spaces.ts'

/** Levels are drawn down to here. */
const FLOOR_DB = -60,
  COLUMNS = 96,
  DRAWN_RATE = 48000

/** Peaks of a space over its time, as shares of the range; a plain fall where the recording is not ours. */
const peaksOf = (name: string): readonly number[] => {
  const before = known.get(name)
  if (before) return before
  const peaks = measuredPeaks(name)
  known.set(name, peaks)
  return peaks
}
const known = new Map<string, readonly number[]>()

const measuredPeaks = (name: string): readonly number[] => {
  const sound = spaceNamed(name, DRAWN_RATE)
  if (!sound) return Array.from({ length: COLUMNS }, (_, n) => 1 - n / COLUMNS)
  const [left, right] = sound.channels,
    each = left!.length / COLUMNS
  const peaks = Array.from({ length: COLUMNS }, (_, n) => {
    let most = 0
    for (let k = Math.floor(n * each); k < Math.floor((n + 1) * each); k += 1)
      most = Math.max(most, Math.abs(left![k]!), Math.abs(right![k]!))
    return most
  })
  const most = Math.max(...peaks)
  return peaks.map((peak) => Math.max(0, 1 - (20 * drawn.log10(peak / most || 1e-9)) / FLOOR_DB))
}

const picture = ({ number: value, choice: word }: PictureContext): Picture => {
  const from = value('from'),
    to = Math.min(1, from + value('length')),
    peaks = peaksOf(word('asset'))
  return {
    kind: 'line',
    title: `Level of the response over its time, ${-FLOOR_DB} dB from bottom to top, and the part that is used`,
    across: 'time',
    up: 'level',
    curves: [
      { points: peaks.map((level, n) => [n / (COLUMNS - 1), level] as const) },
      ...[from, to].map((x) => ({
        points: [
          [x, 0],
          [x, 1],
        ] as const,
      })),
    ],
  }
}

export const convolver: ModuleDescription = {
  type: 'convolver',
  family: 'space',
  label: 'Convolver',
  mark: 'M2 13V3M4 13V5M6 13V7M8 13V6M10 13V9M12 13v-2M14 13v-1',
  words: ['convolution', 'impulse response', 'ir', 'room recording', 'cabinet', 'space'],
  help: help(
    'Puts a sound into a place by the recording of a click in it',
    'What comes in is convolved with the recording, without delay and at any length up to ten seconds. Slipway shed, stairwell, boiler and cliff come with it; a recording of the patch goes by its name. One channel serves both sides, two are one each, four are left to left, left to right, right to left, right to right. Whatever is chosen is made as loud as what comes in. A changed part is worked out first, which takes up to a second, then faded to.',
    'Predelay 0…60 ms, mix 15…40 %.',
    'Boiler, length 30 %, mix 60 % on a dry drum.',
  ),
  front: ['in', 'from', 'length', 'mix', 'out'],
  headline: ['asset', 'mix'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [
    recordingParam(SPACE_NAMES[0], `A recording of the patch, or one of ${SPACE_NAMES.join(', ')}.`),
    share('from', 0, 0, 1, { help: 'Where the part of the recording begins that is used.' }),
    share('length', 1, 0, 1, { help: 'How much of the recording is used.' }),
    number('predelay', 0, PREDELAY_MS, 0, 'ms', { time: true }),
    mix(0.3),
    apart,
  ],
  shape: EFFECT_SHAPE,
  table: responseTable,
  memory: ({ table }, voices) => voices * lineBytes(table),
  picture,
  remarks: ({ choice: word }) =>
    word('asset') === '' ? [['asset', 'no recording is chosen: the effect is silent']] : [],
  bypass: bypassTo('out'),
  cost: [300, 1100, 1100],
  costlier: ({ table }) => {
    const frames = table ? new Uint32Array(table.buffer)[1]! : 0
    return 0.4 + (0.6 * frames) / (LONGEST_SECONDS * DRAWN_RATE)
  },
  bound: 160,
}
