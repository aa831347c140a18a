import { help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const limiter: ModuleDescription = {
  type: 'limiter',
  family: 'level',
  label: 'Limiter',
  words: ['ceiling', 'peak', 'brickwall', 'maximise', 'safe'],
  help: help(
    'Nothing gets louder than the ceiling',
    'Looks 1.5 ms ahead and turns down before a peak arrives, then comes back within the release. Below the ceiling it changes nothing but the time: it delays by as much as it looks ahead. Inside a loop it cannot look ahead and cuts instead.',
    'Ceiling −6…−0.3 dB, release 50…200 ms.',
    'Put it last in a bus of drums.',
  ),
  front: ['in', 'ceiling', 'out'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [number('ceiling', -36, 0, -1, 'dB'), number('release', 5, 2000, 100, 'ms', { log: true })],
  state: { flushed: ['lack'], kept: ['hold', 'least'] },
  memory: (_context, voices, sides) => Math.ceil((voices * sides) / 4) * 16 * 1024 * 2,
  bypass: { from: 'in', to: 'out' },
  latency: (context) => Math.round(0.0015 * context.sampleRate),
  bound: 80,
}
