import {
  choice,
  frequency,
  help,
  input,
  level,
  number,
  output,
  share,
  toggle,
  tuning,
} from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const oscillator: ModuleDescription = {
  type: 'oscillator',
  family: 'sources',
  label: 'Oscillator',
  mark: 'M1 12L7 3v9l6-9v9',
  short: 'osc',
  words: ['osc', 'vco', 'saw', 'pulse', 'square', 'triangle', 'sine', 'sync', 'fm', 'classic waves', 'tone'],
  help: help(
    'Classic waves, sync and FM at any rate',
    'All waves come from one phase, so they stay in step. It is free of aliasing up to its highest notes, runs freely from its start phase, and follows frequency modulation through zero. Slow enough it is an LFO.',
    'Octave −2…2 for voices; fine ±5…15 ct to thicken two oscillators; width 20…50 %.',
    'Connect notes.pitch to pitch, take saw into a filter.',
  ),
  front: ['pitch', 'octave', 'fine', 'width', 'saw', 'pulse', 'sine'],
  inputs: [
    input('pitch', 'pitch', 'the frequency field'),
    input('fm', 'audio'),
    input('hz', 'control'),
    input('phase', 'control'),
    input('sync', 'gate'),
    input('reset', 'gate'),
  ],
  outputs: [
    output('sine', 'audio'),
    output('triangle', 'audio'),
    output('saw', 'audio'),
    output('pulse', 'audio'),
    output('sub', 'audio'),
  ],
  params: [
    ...tuning,
    toggle('tracking', true),
    frequency('frequency', 261.6256, 0.001, 20000, { factor: true }),
    share('width', 0.5, 0.01, 0.99),
    choice('syncMode', ['hard', 'soft'], 'hard', { setOnly: true }),
    number('startPhase', 0, 1, 0, '', { setOnly: true }),
    share('drift', 0),
    level(),
  ],
  state: {
    kept: [
      'high',
      'low',
      'cycle',
      'started',
      'phaseBefore',
      'widths*3',
      'driftTime',
      'resetBefore',
      'syncPast*6',
      'isHigh',
      'synced',
      'resetWas',
      'syncedPhase',
      'direction',
      'position',
      'odd',
      'rings*160',
    ],
  },
  bounded: true,
  cost: [17, 17, 17],
  costlier: ({ number, isCabled }) =>
    1 +
    (number('drift') > 0 || isCabled('drift') ? 4.5 : 0) +
    (isCabled('fm') || isCabled('hz') || isCabled('phase') || isCabled('frequency') ? 2.7 : 0) +
    (isCabled('width') ? 6 : 0) +
    (isCabled('sync') ? 36 : 0),
  bound: 6,
  sounds: true,
}
