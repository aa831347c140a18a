import { choice, frequency, help, input, level, output, seconds, per } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const hold: ModuleDescription = {
  type: 'hold',
  family: 'modulators',
  label: 'Sample & hold',
  mark: 'M1 11h4V5h4v4h4V3h2',
  words: ['sample and hold', 'sample & hold', 's&h', 'track', 'random steps', 'freeze', 'stepped'],
  help: help(
    'Takes a value and keeps it',
    'At every rise of clock it takes what stands at in; track follows in while clock is on. Without cables it takes random values at its own rate, every voice its own. Glide moves from value to value in the time set.',
    'Rate 0.5…12 Hz.',
    'Connect out to a cutoff with one octave.',
  ),
  front: ['clock', 'rate', 'glide', 'out'],
  headline: ['rate'],
  inputs: [input('in', 'control', 'its own noise'), input('clock', 'gate', 'its own clock')],
  outputs: [output('out', 'control')],
  params: [
    choice('mode', ['sample', 'track']),
    frequency('rate', 2, 0.001, 2000),
    choice('polarity', ['bipolar', 'unipolar']),
    level(),
    seconds('glide', 10, 0),
    per,
  ],
  picture: 'signal',
  shape: { perVoice: { without: ['in'] } },
  state: { kept: ['before', 'high', 'low', 'count', 'from', 'to', 'progress', 'started'] },
  frames: 'sequential',
  cost: [24, 24, 22],
  bound: 12,
  sounds: true,
}
