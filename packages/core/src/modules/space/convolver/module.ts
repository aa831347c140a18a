import { apart, bypassTo, EFFECT_SHAPE, mix } from '../../../describe/effects.ts'
import { help, input, number, output, share } from '../../../describe/helpers.ts'
import type { ModuleDescription, RecordingShape } from '../../../describe/types.ts'
import { peaksOf } from '../../../units/peaks.ts'
import { recordingParam } from '../../recordings.ts'
import { waveform } from '../../waveform.ts'
import { lineBytes, LONGEST_SECONDS, PREDELAY_MS, responseTable } from './response.ts'
import { SPACE_NAMES, spaceNamed } from './spaces.ts'

const COLUMNS = 96,
  DRAWN_RATE = 48000
const known = new Map<string, RecordingShape>()

/** A place that comes with us, as it is drawn: levels by their root, so that the tail is seen. */
const shapeOf = (name: string): RecordingShape | undefined => {
  const before = known.get(name)
  if (before) return before
  const sound = spaceNamed(name, DRAWN_RATE)
  if (!sound) return undefined
  const shape = {
    peaks: peaksOf(sound.channels, COLUMNS).map((peak) => Math.sqrt(peak)),
    seconds: sound.channels[0]!.length / DRAWN_RATE,
  }
  known.set(name, shape)
  return shape
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
    recordingParam(
      SPACE_NAMES[0],
      `A recording of the patch, or one of ${SPACE_NAMES.join(', ')}.`,
      SPACE_NAMES,
    ),
    share('from', 0, 0, 1, { help: 'Where the part of the recording begins that is used.' }),
    share('length', 1, 0, 1, { help: 'How much of the recording is used.' }),
    number('predelay', 0, PREDELAY_MS, 0, 'ms', { time: true }),
    mix(0.3),
    apart,
  ],
  shape: EFFECT_SHAPE,
  table: responseTable,
  memory: ({ table }, voices) => voices * lineBytes(table),
  picture: ({ number: value, choice: word, recording }) => {
    const from = value('from')
    return waveform(
      recording?.(word('asset')) ?? shapeOf(word('asset')),
      'The response and the part of it that is used',
      [
        [from, 'from'],
        [Math.min(1, from + value('length')), 'to'],
      ],
    )
  },
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
