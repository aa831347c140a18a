import { choice, help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const route: ModuleDescription = {
  type: 'route',
  family: 'routing',
  label: 'Route',
  mark: 'M1 8h5M6 8l8-5M9 8h5M6 8l8 5',
  words: ['1 to n', 'distribute', 'sequential', 'send to'],
  help: help(
    'One input to one of several outputs',
    'Every clock goes on to the next output; the first clock after the start or a reset plays the first. A cable at select chooses directly, 0…1 over all steps. The others are 0.',
    '2…8 steps, fade 0…50 ms.',
    'Send every other trigger to another drum.',
  ),
  front: ['in', 'clock', 'steps', 'out1', 'out2'],
  headline: ['steps'],
  inputs: [
    input('in', 'audio'),
    input('clock', 'gate'),
    input('reset', 'gate'),
    input('select', 'control', 'the clock decides'),
  ],
  outputs: [1, 2, 3, 4, 5, 6, 7, 8].map((n) => output(`out${n}`, 'audio')),
  params: [
    number('steps', 2, 8, 2, '', { setOnly: true, whole: true }),
    choice('order', ['forward', 'reverse', 'pendulum', 'random']),
    number('fade', 0, 1000, 0, 'ms'),
  ],
  picture: 'signal',
  state: { kept: ['clockBefore', 'resetBefore', 'step', 'started', 'direction', 'count', 'gains*8'] },
  frames: 'sequential',
  needs: [
    { any: ['clock', 'select'], message: 'stays where it is: connect a clock, or something to select' },
  ],
  cost: [77, 76, 76],
  bound: 29,
}
