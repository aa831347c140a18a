import { apart, bypassTo, EFFECT_SHAPE, mix } from '../../../describe/effects.ts'
import { choice, frequency, help, input, number, output, share, toggle } from '../../../describe/helpers.ts'
import { nextPowerOfTwo } from '../../../describe/rings.ts'
import type { ModuleDescription } from '../../../describe/types.ts'
import { LINES, LONGEST, MODELS, modelTable, ROUNDS } from './models.ts'
import { reverbPicture } from './picture.ts'

/** Times grow by this at the largest size. */
const LARGEST = 2.2974
const PREDELAY_MS = 500
/** Samples behind the end of each ring (kernels/fours). */
const BEHIND = 16
/** Samples that each ring keeps free behind its longest way. */
const FREE = 16

/** Samples of each ring: before, after the predelay, rounds of scattering, lines. */
const ringsOf = (sampleRate: number): readonly [number, number, number, number] => {
  const samples = (ms: number): number => nextPowerOfTwo(Math.ceil((ms / 1000) * sampleRate) + FREE)
  return [
    samples(PREDELAY_MS),
    samples(LONGEST.early * LARGEST),
    samples(LONGEST.round * LARGEST),
    samples(LONGEST.line * LARGEST),
  ]
}

export const reverb: ModuleDescription = {
  type: 'reverb',
  family: 'space',
  label: 'Reverb',
  mark: 'M2 14V5l6-3 6 3v9M5 14V9M8 14V7M11 14V9',
  words: ['room', 'hall', 'chamber', 'plate', 'space', 'tail', 'reverberation', 'freeze', 'ambience'],
  help: help(
    'Puts a sound into a room: hall, chamber, plate or small room',
    'Early reflections, then sixteen lines that feed one another without losing anything but what the decay asks for. The decay is what it says at any size and in any model; highs above the damping and lows below 250 Hz have shares of it. Motion turns the lines among one another, so that no pitch moves. Freeze closes the input and keeps what sounds for as long as you like.',
    'Room 0.3…0.8 s, plate 1…3 s, chamber 0.8…2 s, hall 1.5…6 s; mix 15…40 %.',
    'Hall, 4 s, size 80 %, predelay 30 ms, mix 35 %.',
  ),
  front: ['in', 'decay', 'size', 'mix', 'out'],
  headline: ['model', 'decay'],
  stays: ['freeze'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [
    choice('model', MODELS, 'hall'),
    number('decay', 0.1, 60, 2, 's', {
      log: true,
      help: 'Time until 60 dB are lost, at any size and in any model.',
    }),
    share('size', 0.5, 0, 1, { help: 'How far apart the walls are. Changes cross-fade: the pitch stays.' }),
    number('predelay', 0, PREDELAY_MS, 0, 'ms', { time: true }),
    share('early', 0.5, 0, 1, { help: 'Level of the early reflections.' }),
    share('diffusion', 0.7, 0, 1, { help: 'How much is scattered before the tail begins.' }),
    frequency('damping', 8000, 200, 20000, { help: 'Above it the decay is faster; off at 20 kHz.' }),
    number('highDecay', 0.1, 2, 0.5, '', { log: true, help: 'Decay above the damping, as a share.' }),
    number('lowDecay', 0.1, 2, 1, '', { log: true, help: 'Decay below 250 Hz, as a share.' }),
    frequency('lowcut', 20, 20, 2000, {
      label: 'Low cut',
      help: 'Takes lows out of what goes in; off at 20 Hz.',
    }),
    share('motion', 0.2, 0, 1, { help: 'How far the lines turn among one another.' }),
    share('width', 1, 0, 2),
    { ...toggle('freeze', false), help: 'Input closed, damping and motion out: what sounds stays.' },
    mix(0.3),
    apart,
  ],
  shape: EFFECT_SHAPE,
  table: ({ sampleRate }) => Float32Array.from([...modelTable(), ...ringsOf(sampleRate)]),
  state: { flushed: ['filters*48'], kept: ['rooms*212', 'isStarted'] },
  memory: ({ sampleRate }, voices) => {
    const [before, after, round, line] = ringsOf(sampleRate)
    const samples = [2 * before, 2 * after, (ROUNDS - 1) * LINES * round, LINES * line]
    const rings = 4 + ROUNDS * LINES
    return voices * 4 * (samples.reduce((sum, count) => sum + count, 0) + rings * BEHIND)
  },
  picture: reverbPicture,
  bypass: bypassTo('out'),
  cost: [140, 550, 550],
  bound: 120,
}
