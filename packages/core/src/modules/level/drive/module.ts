import { choice, help, input, number, output, share } from '../../../describe/helpers.ts'
import { drawn, sampled } from '../../../describe/pictures.ts'
import type { ModuleDescription, PictureHandle } from '../../../describe/types.ts'
import { own } from '../../../units/own.ts'

const CURVES: Readonly<Record<string, (u: number) => number>> = {
  soft: (u) => u / Math.sqrt(1 + u * u),
  hard: (u) => Math.max(-1, Math.min(1, u)),
  tube: (u) => (u >= 0 ? 1 - drawn.exp(-u) : -0.6 * (1 - drawn.exp(u / 0.6))),
  diode: (u) => Math.sign(u) * drawn.log(1 + Math.abs(u)),
  sine: (u) => drawn.sin((Math.PI / 2) * u),
  rectify: (u) => Math.abs(u) / Math.sqrt(1 + u * u),
}

/** What the picture shows from foot to top. */
const SPAN = 2.4
const LEAST_BEND = 0.004

/** Where in −1…1 a rising curve has a value. */
const whereIs = (curve: (u: number) => number, value: number): number => {
  let low = -1,
    high = 1
  for (let halving = 0; halving < 40; halving += 1) {
    const middle = (low + high) / 2
    if (curve(middle) < value) low = middle
    else high = middle
  }
  return (low + high) / 2
}

export const drive: ModuleDescription = {
  type: 'drive',
  family: 'level',
  label: 'Drive',
  mark: 'M1 13h4c2 0 4-10 6-10h4',
  words: ['distortion', 'saturation', 'overdrive', 'clip', 'fuzz', 'warm', 'louder', 'dirt'],
  help: help(
    'Makes sounds thicker, rougher or broken',
    'Soft rounds, hard cuts, tube bends more below than above (even harmonics), diode squeezes without ever cutting, sine folds over, rectify turns everything up an octave. Bias moves the sound off the middle of the curve; tone tilts what comes out. Oversampled, so that no false tones come in; constant parts are taken out.',
    'Gain 3…12 dB for warmth, 24 dB and more to break it.',
    'Soft at 9 dB behind the filter.',
  ),
  front: ['in', 'gain', 'curve', 'out'],
  headline: ['gain', 'curve'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [
    number('gain', 0, 48, 0, 'dB'),
    choice('curve', ['soft', 'hard', 'tube', 'diode', 'sine', 'rectify']),
    number('bias', -1, 1, 0, ''),
    number('tone', -1, 1, 0, ''),
    share('mix', 1),
    number('output', -48, 24, 0, 'dB'),
  ],
  picture: (context) => {
    const f = own(CURVES, context.choice('curve'))!,
      gain = 10 ** (context.number('gain') / 20),
      bias = context.number('bias')
    return {
      kind: 'line',
      title: 'What comes out over what comes in',
      across: 'in',
      up: 'out',
      curves: [{ points: sampled((x) => 0.5 + f(gain * (2 * x - 1) + bias) / SPAN) }],
    }
  },
  handles: ({ number, choice }) => {
    const curve = own(CURVES, choice('curve'))!,
      bias = number('bias'),
      // What comes in where the curve begins to bend: 1 behind gain and bias.
      bend = (1 - bias) / 10 ** (number('gain') / 20)
    const handles: PictureHandle[] = []
    // Of a curve that turns back a height says nothing.
    if (choice('curve') !== 'rectify')
      handles.push({
        name: 'Bias',
        at: [0.5, 0.5 + curve(bias) / SPAN],
        shows: ['bias'],
        moved: (_x, y) => ({ params: { bias: whereIs(curve, (y - 0.5) * SPAN) } }),
      })
    if (bend > LEAST_BEND && bend < 1 + 1e-9)
      handles.push({
        name: 'Gain',
        at: [Math.min(1, 0.5 + bend / 2), 0.5 + curve(1) / SPAN],
        shows: ['gain'],
        moved: (x) => ({
          params: { gain: 20 * drawn.log10((1 - bias) / Math.max(LEAST_BEND, 2 * x - 1)) },
        }),
      })
    return handles
  },
  state: { flushed: ['over*48', 'dry*48', 'last*2', 'dc', 'tilt'], kept: ['gainBefore', 'biasBefore'] },
  bypass: { from: 'in', to: 'out' },
  latency: () => 3,
  cost: [210, 210, 200],
  bound: 74,
}
