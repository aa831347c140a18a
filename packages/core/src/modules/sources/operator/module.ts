import {
  choice,
  frequency,
  help,
  input,
  level,
  number,
  output,
  positive,
  seconds,
  share,
  toggle,
} from '../../../describe/helpers.ts'
import { drawn, sampled } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'
import { own } from '../../../units/own.ts'

const WAVES: Readonly<Record<string, (p: number) => number>> = {
  sine: (p) => drawn.sin(2 * Math.PI * p),
  half: (p) => Math.max(0, drawn.sin(2 * Math.PI * p)),
  full: (p) => Math.abs(drawn.sin(2 * Math.PI * p)),
  pulse: (p) => (p % 1 < 0.5 ? 1 : -1),
  saw: (p) => 2 * (p % 1) - 1,
}

export const operator: ModuleDescription = {
  type: 'operator',
  family: 'sources',
  label: 'Operator',
  mark: 'M8 2a3 3 0 1 0 .01 0M8 8v2M8 10a2 2 0 1 0 .01 0M11 5c4 0 4 7-1 7',
  words: ['fm', 'phase modulation', 'bell', 'electric piano', 'ratio', 'sidebands', 'modulator', 'carrier'],
  help: help(
    'A wave with its own envelope, made to modulate others',
    'Its frequency is a ratio of the pitch, or fixed. Connect one to the phase of another: the amount is in cycles, so a modulation index of 1 is an amount of 0.159. Feedback modulates it by itself. The envelope follows the gate; a note that starts from silence starts the wave at its beginning.',
    'Ratio 0.5, 1, 2, 3.5; amounts 0.05…1 cycle.',
    'Ratio 3.5 into the phase of a ratio 1 with amount 0.4, decay 1 s.',
  ),
  front: ['pitch', 'gate', 'ratio', 'level', 'phase', 'out'],
  headline: ['ratio', 'level'],
  stays: ['ratio', 'fixed', 'frequency'],
  inputs: [
    input('pitch', 'pitch'),
    input('gate', 'gate'),
    input('velocity', 'control', '1'),
    input('phase', 'audio'),
    input('hz', 'control'),
    input('reset', 'gate'),
  ],
  outputs: [output('out', 'audio'), positive('env')],
  params: [
    number('ratio', 0.1, 32, 1, '', { log: true }),
    number('fine', -100, 100, 0, 'ct'),
    toggle('fixed', false),
    frequency('frequency', 261.6256),
    choice('shape', ['sine', 'half', 'full', 'pulse', 'saw']),
    share('feedback', 0),
    level(),
    toggle('envelope', true),
    seconds('attack', 20, 0.002),
    seconds('decay', 20, 0.5),
    share('sustain', 0.6),
    seconds('release', 20, 0.3),
    share('velocityAmount', 0),
  ],
  picture: (context) => ({
    kind: 'line',
    title: 'Two cycles of the wave',
    across: 'time',
    up: 'level',
    curves: [{ points: sampled((x) => 0.5 + 0.45 * own(WAVES, context.choice('shape'))!(2 * x)) }],
  }),
  state: {
    flushed: ['last', 'before', 'from'],
    kept: ['high', 'low', 'gateBefore', 'resetBefore', 'stage', 'position', 'peak', 'phaseBefore'],
  },
  cost: [150, 150, 150],
  bound: 60,
  sounds: true,
}
