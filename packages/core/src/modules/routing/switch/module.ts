import { choice, help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const STEP_ORDERS = ['forward', 'reverse', 'pendulum', 'random'] as const

export const switchModule: ModuleDescription = {
  type: 'switch',
  family: 'routing',
  label: 'Switch',
  mark: 'M1 4h4M1 12h4M11 8h4M5 4l6 4M6 12l2-2',
  words: ['n to 1', 'select', 'sequential', 'choose', 'one of'],
  help: help(
    'One of several inputs',
    'Every clock goes on to the next input; the first clock after the start or a reset plays the first. A cable at select chooses directly, 0…1 over all steps. Fade softens the change.',
    '2…8 steps, fade 0…50 ms.',
    'Clock it to alternate between two oscillators.',
  ),
  front: ['clock', 'steps', 'in1', 'in2', 'out'],
  headline: ['steps'],
  inputs: [
    ...[1, 2, 3, 4, 5, 6, 7, 8].map((n) => input(`in${n}`, 'audio')),
    input('clock', 'gate'),
    input('reset', 'gate'),
    input('select', 'control', 'the clock decides'),
  ],
  outputs: [output('out', 'audio')],
  params: [
    number('steps', 2, 8, 2, '', { setOnly: true, whole: true }),
    choice('order', STEP_ORDERS),
    number('fade', 0, 1000, 0, 'ms'),
  ],
  adds: true,
  picture: 'signal',
  state: { kept: ['clockBefore', 'resetBefore', 'step', 'started', 'direction', 'count', 'gains*8'] },
  frames: 'sequential',
  needs: [
    { any: ['clock', 'select'], message: 'stays where it is: connect a clock, or something to select' },
  ],
  cost: [80, 80, 79],
  bound: 30,
}
