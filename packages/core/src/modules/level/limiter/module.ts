import { help, input, number, output, positive } from '../../../describe/helpers.ts'
import {
  LOOKAHEAD_HEAD,
  LOOKAHEAD_HOLD,
  LOOKAHEAD_REACH,
  LOOKAHEAD_SAMPLE,
  VECTOR_BYTES,
} from '../../../kernels/abi.ts'
import type { ModuleDescription, ShapeContext } from '../../../describe/types.ts'

const windowFrames = (context: ShapeContext): number =>
  Math.max(1, Math.round((context.number('lookahead') / 1000) * context.sampleRate))
const latencyFrames = (context: ShapeContext): number =>
  windowFrames(context) + LOOKAHEAD_REACH + LOOKAHEAD_HOLD - 1

/** Vectors of its rings: all that is looked at, and a block that is written before. */
const ringVectors = (context: ShapeContext): number => {
  let vectors = 256
  while (vectors < latencyFrames(context) + LOOKAHEAD_REACH + 2 * LOOKAHEAD_HOLD + 130) vectors *= 2
  return vectors
}

export const limiter: ModuleDescription = {
  type: 'limiter',
  family: 'level',
  label: 'Limiter',
  mark: 'M1 3h14M1 14l4-8h6l4 8',
  words: ['ceiling', 'peak', 'brickwall', 'maximise', 'safe'],
  help: help(
    'Nothing gets louder than the ceiling',
    'Looks ahead and turns down before a peak arrives, then comes back within the release. What lies between samples counts as well (true peak), so the sound stays below the ceiling when it is converted. Below the ceiling it changes nothing but the time: it delays by as much as it looks ahead and 31 samples. Reduction is how many decibels it takes off, per 60. Inside a loop it cannot look ahead and cuts instead.',
    'Ceiling −6…−0.3 dB, release 50…200 ms.',
    'Put it last in a bus of drums.',
  ),
  front: ['in', 'ceiling', 'out'],
  headline: ['ceiling'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio'), positive('reduction')],
  params: [
    number('ceiling', -36, 0, -1, 'dB'),
    number('release', 5, 2000, 100, 'ms', { log: true }),
    number('lookahead', 0, 10, 1.5, 'ms', { setOnly: true }),
  ],
  picture: 'signal',
  memory: (context, voices, sides) =>
    Math.ceil((voices * sides) / 4) *
    (ringVectors(context) * (VECTOR_BYTES + LOOKAHEAD_SAMPLE) + LOOKAHEAD_HEAD),
  bypass: { from: 'in', to: 'out' },
  latency: latencyFrames,
  cost: [95, 95, 98],
  bound: 120,
}
