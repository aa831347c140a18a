import { choice, help, number, output, seconds, share } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const notes: ModuleDescription = {
  type: 'notes', family: 'playing', label: 'Notes', words: ['keyboard', 'midi', 'keys', 'pitch', 'gate', 'velocity', 'player', 'voices'],
  help: help('What the player does, a voice for each note',
    'Pitch, gate, velocity and touch of every voice. The number of voices set here is carried by the cables through everything that follows. Pitch keeps its value after release.',
    'Voices 4…8 for chords, mono or legato for bass and lead; glide 20…150 ms.', 'Connect pitch to an oscillator and gate to an envelope.'),
  front: ['voices', 'glide', 'pitch', 'gate', 'velocity'],
  inputs: [],
  outputs: [
    output('pitch', 'pitch'), output('gate', 'gate'), output('trigger', 'gate'), output('velocity', 'control'), output('release', 'control'),
    output('pressure', 'control'), output('slide', 'control'), output('bend', 'pitch'), output('wheel', 'control'), output('voice', 'control'),
    output('scatter', 'control'), { ...output('any', 'gate'), voices: 1 }, { ...output('held', 'gate'), voices: 1 },
  ],
  params: [
    number('voices', 1, 16, 1, '', { setOnly: true, whole: true }), choice('mode', ['poly', 'mono', 'legato'], 'mono'),
    choice('priority', ['last', 'low', 'high']), seconds('glide', 5, 0), choice('glideWhen', ['off', 'always', 'legato'], 'always'),
    number('bendRange', 0, 48, 2, 'st'), number('transpose', -48, 48, 0, 'st'), number('detune', 0, 50, 0, 'ct'),
    number('lowKey', 0, 127, 0, '', { whole: true, exact: true }), number('highKey', 0, 127, 127, '', { whole: true, exact: true }),
    share('lowVelocity', 0, 0, 1, { exact: true }), share('highVelocity', 1, 0, 1, { exact: true }),
    number('channel', 0, 16, 0, '', { setOnly: true, whole: true }), choice('expression', ['plain', 'mpe'], 'plain', { setOnly: true }),
    number('velocityCurve', -1, 1, 0, '', { exact: true }),
  ],
  shape: { voices: (context) => context.number('voices') },
  state: { kept: ['from', 'to', 'progress', 'triggerLeft', 'anyLeft'] },
  memory: () => 1024, role: 'notes', bound: 15, sounds: true,
}
