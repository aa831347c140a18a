import { choice, help, input, number, output, positive } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

interface Note {
  readonly start: number
  readonly length: number
  readonly note: number
  readonly velocity?: number
}

const BEATS_PER_BAR = 4
const HEAD = 16

/** Gives every note a voice: the one free longest, or else the one whose note ends first. */
const byVoice = (notes: readonly Note[], voices: number, beats: number): Note[][] => {
  const lists: Note[][] = Array.from({ length: voices }, () => [])
  const free = Array.from({ length: voices }, () => 0)
  for (const note of [...notes]
    .filter((item) => item.start < beats && item.length > 0)
    .sort((a, b) => a.start - b.start || a.note - b.note)) {
    let best = 0
    free.forEach((end, voice) => {
      if (end < free[best]!) best = voice
    })
    lists[best]!.push(note)
    free[best] = note.start + note.length
  }
  return lists
}

export const pattern: ModuleDescription = {
  type: 'pattern',
  family: 'playing',
  label: 'Pattern',
  mark: 'M2 3h4M7 6h3M11 9h3M2 12h6M1 1v14',
  words: ['clip', 'notes', 'chords', 'melody', 'piano roll', 'phrase', 'loop'],
  help: help(
    'A clip of notes and chords',
    'Plays its notes with the transport, looped over its bars or once. Chords use as many voices as are set. A rise at reset starts it over.',
    '1…8 bars, 1…8 voices.',
    'Write four chords and connect pitch and gate as from a note source.',
  ),
  front: ['voices', 'bars', 'pitch', 'gate'],
  headline: ['bars', 'voices'],
  inputs: [input('reset', 'gate')],
  outputs: [
    output('pitch', 'pitch'),
    output('gate', 'gate'),
    output('trigger', 'gate'),
    positive('velocity'),
    output('scatter', 'control'),
  ],
  params: [
    number('voices', 1, 16, 4, '', { setOnly: true, whole: true }),
    number('bars', 1, 64, 4, '', { setOnly: true, whole: true }),
    choice('mode', ['loop', 'once']),
    number('transpose', -24, 24, 0, 'st', { exact: true }),
  ],
  data: [{ name: 'notes', kind: 'notes', length: 4096, default: [] }],
  // Beats of the loop; where each of 16 voices' notes begin and how many they are; then start, end, pitch and velocity of each.
  table: (context) => {
    const beats = BEATS_PER_BAR * context.number('bars')
    const lists = byVoice(context.data('notes') as Note[], context.number('voices'), beats)
    const head = [beats],
      rows: number[] = []
    let at = HEAD * 2 + 4
    for (let voice = 0; voice < HEAD; voice += 1) {
      const list = lists[voice] ?? []
      head.push(at, list.length)
      list.forEach((note, index) => {
        // A voice has one note at a time: the next one ends it, and the loop's end the last.
        const end = Math.min(note.start + note.length, list[index + 1]?.start ?? beats)
        rows.push(note.start, end, (note.note - 60) / 12, note.velocity ?? 1)
      })
      at += list.length * 4
    }
    while (head.length < HEAD * 2 + 4) head.push(0)
    return Float32Array.from([...head, ...rows])
  },
  picture: (context) => {
    const notes = context.data('notes') as Note[],
      beats = BEATS_PER_BAR * context.number('bars')
    const low = Math.min(...notes.map((note) => note.note), 59),
      high = Math.max(...notes.map((note) => note.note), 61)
    return {
      kind: 'line',
      title: 'The notes',
      across: 'beats',
      up: 'note',
      curves: notes.slice(0, 200).map((note) => ({
        points: [
          [note.start / beats, (note.note - low + 0.5) / (high - low + 1)],
          [Math.min(1, (note.start + note.length) / beats), (note.note - low + 0.5) / (high - low + 1)],
        ] as const,
      })),
    }
  },
  tells: ['beat'],
  editor: { kind: 'clip' },
  shape: { voices: (context) => context.number('voices') },
  state: {
    kept: [
      'before',
      'fromLow',
      'fromHigh',
      'startsSeen',
      'index',
      'cycle',
      'high',
      'left',
      'pitch',
      'velocity',
      'begun',
    ],
  },
  cost: [200, 210, 210],
  bound: 73,
  sounds: true,
}
