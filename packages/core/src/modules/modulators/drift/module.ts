import { frequency, help, output, share, per } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const drift: ModuleDescription = {
  type: 'drift',
  family: 'modulators',
  label: 'Drift',
  mark: 'M1 9c2-3 3 1 5-2s3 5 5 1 2-2 4-4',
  words: ['smooth random', 'wander', 'brownian', 'slow noise', 'analogue', 'unsteady'],
  help: help(
    'Wanders smoothly and never repeats',
    'Two layers of random values at unrelated rates, every voice its own. Smooth rounds the corners; opposite is the same movement upside down.',
    'Rate 0.1…3 Hz, small amounts on pitch.',
    'Connect out to the fine of one oscillator and opposite to another.',
  ),
  front: ['rate', 'depth', 'out', 'opposite'],
  headline: ['rate', 'depth'],
  inputs: [],
  outputs: [output('out', 'control'), output('opposite', 'control')],
  params: [frequency('rate', 0.5, 0.01, 20), share('depth', 1), share('smooth', 0.7), per],
  picture: 'signal',
  shape: { perVoice: { without: [] } },
  state: { kept: ['high', 'low', 'index', 'high2', 'low2', 'index2'] },
  frames: 'sequential',
  bounded: true,
  cost: [96, 96, 96],
  bound: 130,
  sounds: true,
}
