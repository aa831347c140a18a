import { apart, bypassTo, EFFECT_SHAPE, mix } from '../../../describe/effects.ts'
import { help, input, number, output } from '../../../describe/helpers.ts'
import { nextPowerOfTwo } from '../../../describe/rings.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** Longest size in seconds, and what its splices reach back to: (4 − 1) fades of a quarter, one and a half halves, a search. */
const LONGEST = 0.2,
  REACH = 1.9
/** Samples behind the end of a ring of single samples (kernels/fours). */
const BEHIND = 16

const ringsOf = (sampleRate: number): readonly [sound: number, direct: number, search: number] => {
  const sound = nextPowerOfTwo(Math.ceil(LONGEST * REACH * sampleRate) + 64)
  return [sound, nextPowerOfTwo(Math.ceil((LONGEST / 2) * sampleRate) + 16), sound / 4]
}

export const pitchshift: ModuleDescription = {
  type: 'pitchshift',
  family: 'space',
  label: 'Pitch shifter',
  mark: 'M1 12h5V8h4V4h5M11 2l4 2-2 3',
  short: 'pitch',
  words: ['transpose', 'harmonizer', 'octaver', 'octave down', 'detune', 'shift pitch', 'pitchshift'],
  help: help(
    'Moves the pitch of any sound, chords and drums included',
    'Reads its delay faster or slower, and before it runs out jumps to where the sound looks most alike: pitches stay pure, levels even. Size is how far it jumps: larger for deep and long sounds, smaller for drums. It is late by half the size, and so is the direct sound beside it; the check of the patch says by how much.',
    'Size 40…80 ms for chords, 15…30 ms for drums; ±12 semitones, or 8 cents for width.',
    'Minus 12 semitones, mix 50 %.',
  ),
  front: ['in', 'semitones', 'fine', 'mix', 'out'],
  headline: ['semitones', 'fine'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [
    number('semitones', -24, 24, 0, 'st'),
    number('fine', -100, 100, 0, 'ct'),
    number('size', 5, 1000 * LONGEST, 60, 'ms', {
      log: true,
      help: 'How far it jumps; it is late by half of it.',
    }),
    mix(1),
    apart,
  ],
  shape: EFFECT_SHAPE,
  table: ({ sampleRate }) => Float32Array.from(ringsOf(sampleRate)),
  state: { flushed: ['filters*24'], kept: ['heads*12'] },
  memory: ({ sampleRate }, voices) => {
    const [sound, direct, search] = ringsOf(sampleRate)
    return voices * (8 * (sound + direct) + 4 * (search + BEHIND))
  },
  latency: ({ number: value, sampleRate }) => Math.round((value('size') * sampleRate) / 2000),
  picture: ({ number: value }) => {
    const ratio = 2 ** ((value('semitones') + value('fine') / 100) / 12)
    // Two seconds of nothing but its reading place: straight runs and jumps.
    const runs = 6,
      slope = ratio - 1
    return {
      kind: 'line',
      title: 'Where it reads, over six jumps',
      across: 'time',
      up: 'delay',
      curves: [
        {
          points:
            Math.abs(slope) < 1e-6
              ? [
                  [0, 0.5],
                  [1, 0.5],
                ]
              : Array.from({ length: runs }, (_, n) => [
                  [n / runs, slope > 0 ? 0.8 : 0.2] as const,
                  [(n + 0.999) / runs, slope > 0 ? 0.2 : 0.8] as const,
                ]).flat(),
        },
      ],
    }
  },
  bypass: bypassTo('out'),
  cost: [65, 260, 260],
  bound: 60,
}
