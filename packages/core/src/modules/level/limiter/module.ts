import { help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** Room for what is looked ahead at, twice: sound and needs are read up to that far back. */
const ringFrames = (lookaheadMs: number, sampleRate: number): number => {
  let frames = 64
  while (frames < 2 * (Math.round((lookaheadMs / 1000) * sampleRate) + 1)) frames *= 2
  return frames
}

export const limiter: ModuleDescription = {
  type: 'limiter',
  family: 'level',
  label: 'Limiter',
  words: ['ceiling', 'peak', 'brickwall', 'maximise', 'safe'],
  help: help(
    'Nothing gets louder than the ceiling',
    'Looks ahead and turns down before a peak arrives, then comes back within the release. Below the ceiling it changes nothing but the time: it delays by as much as it looks ahead. Reduction is how many decibels it takes off, per 60. Inside a loop it cannot look ahead and cuts instead.',
    'Ceiling −6…−0.3 dB, release 50…200 ms.',
    'Put it last in a bus of drums.',
  ),
  front: ['in', 'ceiling', 'out'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio'), output('reduction', 'control')],
  params: [
    number('ceiling', -36, 0, -1, 'dB'),
    number('release', 5, 2000, 100, 'ms', { log: true }),
    number('lookahead', 0, 10, 1.5, 'ms', { setOnly: true }),
  ],
  state: { flushed: ['lack'], kept: ['hold', 'least'] },
  memory: (context, voices, sides) =>
    Math.ceil((voices * sides) / 4) * 32 * ringFrames(context.number('lookahead'), context.sampleRate),
  bypass: { from: 'in', to: 'out' },
  latency: (context) => Math.round((context.number('lookahead') / 1000) * context.sampleRate),
  cost: [95, 95, 98],
  bound: 80,
}
