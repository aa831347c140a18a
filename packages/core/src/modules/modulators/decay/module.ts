import { help, input, number, output, positive, seconds, share } from '../../../describe/helpers.ts'
import { curved, sampled } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const decay: ModuleDescription = {
  type: 'decay',
  family: 'modulators',
  label: 'Decay',
  mark: 'M2 2v6c0 4 6 5 12 5',
  words: ['kick envelope', 'ad envelope', 'percussive', 'envelope', 'drum', 'pluck', 'ad', 'hit', 'one-shot'],
  help: help(
    'An envelope that only rises and falls',
    'A trigger (or the rise of a gate) starts it: up in the attack, then down in the decay, whatever the gate does. Curve bends the fall, power makes it steeper still. It starts from where it is, so fast repeats do not click.',
    'Attack 0…5 ms, decay 30 ms…2 s.',
    'Use a second one with 30 ms on the pitch of a drum.',
  ),
  front: ['trigger', 'decay', 'curve', 'env'],
  headline: ['decay'],
  inputs: [input('trigger', 'gate'), input('velocity', 'control', '1'), input('in', 'audio')],
  outputs: [positive('env'), output('out', 'audio'), output('end', 'gate')],
  params: [
    seconds('attack', 1, 0.001),
    number('decay', 0.001, 20, 0.3, 's', { log: true }),
    number('curve', -1, 1, 0.5, ''),
    number('power', 1, 10, 1, ''),
    share('velocityAmount', 0),
  ],
  picture: (context) => {
    const a = context.number('attack'),
      d = context.number('decay'),
      whole = a + d
    return {
      kind: 'line',
      title: 'The envelope',
      across: 'time',
      up: 'level',
      curves: [
        {
          points: sampled((x) => {
            const t = x * whole
            const level = t < a ? t / a : 1 - curved((t - a) / d, context.number('curve'))
            return Math.max(0, level) ** context.number('power')
          }),
        },
      ],
    }
  },
  handles: ({ number }) => {
    const attack = number('attack'),
      whole = attack + number('decay')
    return [
      {
        name: 'Attack',
        at: [attack / whole, 1],
        shows: ['attack'],
        moved: (x) => ({ params: { attack: x * whole } }),
      },
      {
        name: 'Decay',
        at: [1, 0],
        shows: ['decay'],
        moved: (x) => ({ params: { decay: x * whole - attack } }),
      },
    ]
  },
  state: { kept: ['before', 'stage', 'position', 'from', 'peak', 'endLeft'] },
  frames: 'sequential',
  bounded: true,
  needs: [
    { any: ['trigger'], message: 'never fires: nothing is connected to its trigger. Connect notes.trigger' },
  ],
  cost: [170, 180, 100],
  bound: 46,
}
