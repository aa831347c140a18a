import { help, input, output, seconds } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const gate: ModuleDescription = {
  type: 'gate',
  family: 'routing',
  label: 'Gate',
  mark: 'M1 8h4M11 8h4M5 3v10M11 3v10M5 8l5-5',
  words: ['delay a gate', 'length', 'trigger to gate', 'gate to trigger', 'one-shot'],
  help: help(
    'Delays a gate and sets its length',
    'A rise of in opens the gate after the delay, for the length set, or for as long as in was on where the length is 0. Start and end are triggers at its edges.',
    'Delay 0…2 s, length 5 ms…5 s.',
    'Make triggers into gates of 100 ms.',
  ),
  front: ['in', 'delay', 'length', 'gate'],
  headline: ['delay', 'length'],
  inputs: [input('in', 'gate')],
  outputs: [output('gate', 'gate'), output('start', 'gate'), output('end', 'gate')],
  params: [seconds('delay', 20, 0), seconds('length', 20, 0)],
  picture: 'signal',
  state: { kept: ['before', 'untilStart', 'untilEnd', 'open', 'startLeft', 'endLeft'] },
  frames: 'sequential',
  cost: [1.6, 1.6, 0],
  bound: 9.4,
}
