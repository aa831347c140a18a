import { choice, help, input, number, output, seconds, share, toggle } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const envelope: ModuleDescription = {
  type: 'envelope', family: 'modulators', label: 'Envelope', words: ['adsr', 'attack', 'decay', 'sustain', 'release', 'contour', 'fade'],
  help: help('Rises with a gate, falls when it ends',
    'Delay, attack, hold, decay to the sustain level, release. It always starts from where it is, so a new note never clicks. Positive curves move fast first.',
    'Attack 2…20 ms and decay 0.2…1 s for plucks; attack 0.5 s and more for pads.', 'Connect notes.gate to gate, env to an amplifier.'),
  front: ['gate', 'attack', 'decay', 'sustain', 'release', 'env'],
  inputs: [input('gate', 'gate'), input('trigger', 'gate'), input('velocity', 'control', '1'), input('in', 'audio')],
  outputs: [output('env', 'control'), output('inverse', 'control'), output('out', 'audio'), output('end', 'gate')],
  params: [
    seconds('delay', 10, 0), seconds('attack', 20, 0.005), seconds('hold', 10, 0), seconds('decay', 20, 0.2),
    share('sustain', 0.7), seconds('release', 20, 0.2),
    number('attackCurve', -1, 1, 0.2, ''), number('decayCurve', -1, 1, 0.6, ''), number('releaseCurve', -1, 1, 0.6, ''),
    choice('retrigger', ['on', 'legato']), toggle('loop', false), share('velocityAmount', 0),
  ],
  state: { kept: ['stage', 'position', 'from', 'value', 'peak', 'gateBefore', 'triggerBefore', 'endLeft', 'heldStage', 'heldPosition', 'heldFrom', 'age', 'ended', 'curveNow', 'bendBefore', 'stepBefore'] },
  bound: 15, sounds: true,
}
