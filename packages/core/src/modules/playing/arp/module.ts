import { choice, help, input, number, output, share, toggle } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const arp: ModuleDescription = {
  type: 'arp',
  family: 'playing',
  label: 'Arpeggio',
  mark: 'M2 12h2M5 9h2M8 6h2M11 3h3M11 3v3M14 3l-3 3',
  words: ['arpeggiator', 'chord', 'arpeggio', 'broken chord', 'held notes', 'latch'],
  help: help(
    'The held chord, note by note',
    'Takes the voices of a note source as a chord and plays one note of it at every clock. Played keeps the order of the keys; together runs through the whole chord within each clock. Octaves repeats it higher; latch keeps the chord after the keys are let go until new ones are pressed.',
    'Octaves 1…3.',
    'Give the note source 8 voices and clock it with 1/16.',
  ),
  front: ['pitch', 'gate', 'clock', 'order'],
  headline: ['order', 'octaves'],
  stays: ['octaves', 'latch'],
  inputs: [input('pitch', 'pitch'), input('gate', 'gate'), input('clock', 'gate'), input('reset', 'gate')],
  outputs: [
    { ...output('pitch', 'pitch'), voices: 1 as const, sides: 1 as const, label: 'pitch' },
    { ...output('gate', 'gate'), voices: 1 as const, sides: 1 as const },
    { ...output('trigger', 'gate'), voices: 1 as const, sides: 1 as const },
  ],
  params: [
    choice('order', ['up', 'down', 'updown', 'played', 'random', 'together']),
    number('octaves', 1, 4, 1, '', { whole: true, exact: true }),
    share('gateLength', 0.5, 0.01, 1),
    toggle('latch', false),
  ],
  // By lane: held now, in the chord, its pitch, when its key went down. Then what the one voice does.
  picture: 'signal',
  state: { kept: ['keyBefore', 'member', 'pitchOf', 'stamp', 'one*4'] },
  needs: [
    {
      any: ['gate'],
      message: 'has no chord: nothing is connected to its gate. Connect pitch and gate of notes',
    },
    { any: ['clock'], message: 'never moves: nothing is connected to its clock. Connect a clock' },
  ],
  cost: [65, 66, 13],
  bound: 11,
}
