import { choice, help, input, number, output, share } from '../../../describe/helpers.ts'
import type { ModuleDescription, ParamDescription } from '../../../describe/types.ts'

/** Ways of reading between samples, of buffers and their readers. */
export const readingKind: ParamDescription = choice(
  'interpolation',
  ['none', 'linear', 'cosine', 'cubic', 'spline'],
  'cubic',
  { setOnly: true },
)

export const bufferName: ParamDescription = {
  kind: 'text',
  name: 'name',
  label: 'Name',
  default: 'tape',
  setOnly: true,
  help: 'Readers of this name look into it. One buffer a name, all over the patch.',
}

/** Samples of a page, and bytes of a tape before its samples: its numbers, heads of the last frames, what was overwritten. */
const PAGE = 1024,
  TAPE_BYTES = 128 + 256 * 24 + 1024 * 16
const roomOf = (seconds: number, sampleRate: number): number =>
  Math.ceil(Math.ceil(seconds * sampleRate) / PAGE) * PAGE

export const buffer: ModuleDescription = {
  type: 'buffer',
  family: 'space',
  label: 'Buffer',
  mark: 'M5 8a3 3 0 1 0 .01 0M11 8a3 3 0 1 0 .01 0M5 11h6',
  words: ['looper', 'record', 'overdub', 'loop', 'tape', 'sound on sound', 'layers', 'varispeed', 'scrub'],
  help: help(
    'Records what comes in and plays it round, in layers',
    'While record is high for the first time it records; when it falls the loop is exactly as long as that was, its seam cross-faded, and plays. Record again and what comes in goes over it: overdub is what is left of the old. Undo takes the last layer back, and brings it again. Speed turns and slows it; position mode reads where position says. With quantize record begins and ends with the beat or the bar. Readers of the same name have heads of their own on it.',
    'Length 10…60 s for loops, 0.05…1 s for stutters.',
    'Connect record to a gate button, out to the output.',
  ),
  front: ['in', 'record', 'play', 'speed', 'out'],
  headline: ['mode', 'speed'],
  stays: 'all',
  inputs: [
    input('in', 'audio'),
    input('record', 'gate'),
    input('clear', 'gate'),
    input('play', 'gate', 'plays as soon as there is a loop'),
    input('undo', 'gate'),
    input('reset', 'gate'),
  ],
  outputs: [output('out', 'audio'), { ...output('head', 'control'), oneSided: true }, output('end', 'gate')],
  params: [
    bufferName,
    number('length', 0.01, 120, 10, 's', { setOnly: true, help: 'Room for the longest loop.' }),
    share('overdub', 1, 0, 1, { help: 'What is left of the old layer where a new one is recorded.' }),
    choice('quantize', ['off', 'beat', 'bar'], 'off', {
      help: 'Record begins and ends with the next beat or bar of the transport.',
    }),
    share('loopStart', 0),
    share('loopEnd', 1),
    choice('mode', ['loop', 'once', 'position']),
    share('position', 0, 0, 1, { help: 'Where it reads in position mode.' }),
    number('speed', -4, 4, 1, ''),
    readingKind,
  ],
  state: { kept: ['heads*32'] },
  memory: ({ number: value, sampleRate }, voices, sides) => {
    const room = roomOf(value('length'), sampleRate)
    return voices * (TAPE_BYTES + Math.ceil(room / PAGE / 4) * 16 + 2 * sides * 4 * room)
  },
  table: ({ number: value, sampleRate }) =>
    new Float32Array(Uint32Array.of(roomOf(value('length'), sampleRate)).buffer),
  shares: { as: 'keeper', name: 'name' },
  keepsRecording: true,
  sounds: true,
  needs: [{ any: ['record'], message: 'never records: connect a gate' }],
  picture: ({ number: value, now }) => {
    const from = Math.min(value('loopStart'), value('loopEnd')),
      to = Math.max(value('loopStart'), value('loopEnd')),
      head = now?.('head')?.value
    return {
      kind: 'line',
      title: 'The part of the loop that plays, and where the head is',
      across: 'time',
      up: '',
      curves: [
        {
          points: [
            [0, 0.08],
            [from, 0.08],
            [from, 0.5],
            [to, 0.5],
            [to, 0.08],
            [1, 0.08],
          ],
        },
      ],
      ...(head === undefined ? {} : { dots: [[Math.max(0, Math.min(1, head)), 0.75]] as const }),
    }
  },
  cost: [40, 150, 150],
  bound: 60,
}
