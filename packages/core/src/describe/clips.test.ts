import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { writeMidiFile } from '../formats/midi.ts'
import { notesInBeats } from '../formats/midi-beats.ts'
import {
  changedClip,
  type Clip,
  CLIP_CHANGES,
  inLayer,
  keptRange,
  movedNotes,
  shownNotes,
  stretchedNotes,
  withNote,
  withoutNotes,
  withVelocity,
} from './clips.ts'
import { barsOf, clipOfEvents, eventsOfClip } from './clip-events.ts'
import { dataFaults } from '../patch/values.ts'

const note = fc.record({
  start: fc.integer({ min: 0, max: 256 }).map((n) => n / 16),
  length: fc.integer({ min: 1, max: 64 }).map((n) => n / 16),
  note: fc.integer({ min: 0, max: 127 }),
  velocity: fc.integer({ min: 0, max: 100 }).map((n) => n / 100),
})
const clips = fc.array(note, { maxLength: 24 })
const data = { name: 'notes', kind: 'notes', length: 4096 }
const all = (clip: Clip): Set<number> => new Set(clip.keys())
const options = { grid: 0.25, random: () => 0.75 }
const change = (clip: Clip, by: (typeof CLIP_CHANGES)[number], chosen = all(clip)): Clip =>
  changedClip(clip, chosen, by, options)
const pitches = (clip: Clip): number[] => clip.map((each) => each.note)

describe('a clip', () => {
  it('is what the module takes, whatever is done to it, and what is not chosen stays', () => {
    fc.assert(
      fc.property(
        clips,
        fc.func(fc.boolean()),
        fc.double({ min: -40, max: 40, noNaN: true }),
        fc.integer({ min: -140, max: 140 }),
        fc.double({ min: -2, max: 2, noNaN: true }),
        (clip, isChosen, beats, semitones, velocity) => {
          const chosen = new Set([...clip.keys()].filter((n) => isChosen(n)))
          const results = [
            ...CLIP_CHANGES.map((by) => change(clip, by, chosen)),
            movedNotes(clip, chosen, beats, semitones),
            stretchedNotes(clip, chosen, beats),
            withVelocity(clip, chosen, () => velocity),
            inLayer(clip, chosen, 3),
          ]
          for (const next of results) {
            expect(dataFaults(data, next, 'notes')).toEqual([])
            expect(next).toHaveLength(clip.length)
            clip.forEach((each, n) => {
              if (!chosen.has(n)) expect(next[n]).toEqual(each)
            })
          }
          expect(withoutNotes(clip, chosen)).toHaveLength(clip.length - chosen.size)
          expect(
            dataFaults(data, withNote(clip, { start: beats, length: beats, note: semitones }), 'n'),
          ).toEqual([])
        },
      ),
    )
  })

  it('is moved all alike, as far as its lowest, highest and first may go', () => {
    fc.assert(
      fc.property(
        clips,
        fc.integer({ min: -20, max: 20 }),
        fc.integer({ min: -140, max: 140 }),
        (clip, beats, up) => {
          const moved = movedNotes(clip, all(clip), beats, up)
          const ways = new Set(moved.map((each, n) => each.note - clip[n]!.note))
          expect(ways.size).toBeLessThanOrEqual(1)
          expect(
            new Set(moved.map((each, n) => Math.round(1e4 * (each.start - clip[n]!.start)))).size,
          ).toBeLessThanOrEqual(1)
        },
      ),
    )
  })

  it('does not grow beyond what a module holds', () => {
    const full = new Array(4096).fill({ start: 0, length: 1, note: 60 })
    expect(withNote(full, { start: 0, length: 1, note: 60 })).toBeUndefined()
  })
})

describe('chords', () => {
  const chord: Clip = [64, 60, 67, 71].map((each) => ({ start: 2, length: 1, note: each }))

  it('are spread: every second note from below goes up an octave', () => {
    expect(pitches(change(chord, 'spread over octaves'))).toEqual([76, 60, 67, 83])
  })
  it('are inverted upwards and down again to what they were', () => {
    const up = change(chord, 'invert up')
    expect(pitches(up)).toEqual([64, 72, 67, 71])
    expect(change(up, 'invert down')).toEqual(chord)
  })
  it('are each a chord of their own, a single note is none', () => {
    const later = chord.map((each) => ({ ...each, start: 6 }))
    const both = [...chord, ...later, { start: 9, length: 1, note: 48 }]
    expect(pitches(change(both, 'spread over octaves'))).toEqual([76, 60, 67, 83, 76, 60, 67, 83, 48])
    expect(pitches(change(both, 'invert up')).at(-1)).toBe(48)
  })
  it('mirrored or played backwards twice are as they were', () => {
    fc.assert(
      fc.property(clips, (clip) => {
        expect(change(change(clip, 'mirror'), 'mirror')).toEqual(clip)
        const twice = change(change(clip, 'backwards'), 'backwards')
        twice.forEach((each, n) => {
          expect(each.start).toBeCloseTo(clip[n]!.start, 4)
        })
      }),
    )
  })
})

describe('as MIDI', () => {
  it('a clip comes back as it went, at any tempo', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(note, { maxLength: 12, selector: (each) => each.note }),
        fc.integer({ min: 40, max: 240 }),
        (clip, tempo) => {
          const events = eventsOfClip(clip, tempo)
          const back = clipOfEvents(events, tempo)
          const sorted = [...clip].sort((a, b) => a.start - b.start || a.note - b.note)
          expect([...back].sort((a, b) => a.start - b.start || a.note - b.note)).toEqual(
            sorted.map((each) => ({ ...each })),
          )
        },
      ),
    )
  })

  it('a file holds it within a tick', () => {
    const clip: Clip = [
      { start: 0, length: 0.5, note: 60, velocity: 0.8 },
      { start: 1.75, length: 2, note: 67, velocity: 0.4 },
    ]
    const { bytes } = writeMidiFile({ header: { tempo: 96 }, events: eventsOfClip(clip, 96) })
    const read = notesInBeats(bytes)
    if (!read.ok) throw new Error(read.faults[0]!.message)
    // In beats already.
    const back = clipOfEvents(read.value, 60)
    expect(back.map((each) => each.note)).toEqual([60, 67])
    back.forEach((each, n) => {
      expect(each.start).toBeCloseTo(clip[n]!.start, 2)
      expect(each.length).toBeCloseTo(clip[n]!.length, 2)
      expect(each.velocity).toBeCloseTo(clip[n]!.velocity!, 1)
    })
    expect(barsOf(back)).toBe(1)
  })

  it('a note that is never let go lasts a beat, one struck again ends the one before', () => {
    const clip = clipOfEvents(
      [
        { t: 0, type: 'on', note: 60, velocity: 1 },
        { t: 1, type: 'on', note: 60, velocity: 1 },
      ],
      60,
    )
    expect(clip.map(({ length }) => length)).toEqual([1, 1])
  })
})

it('what is shown stays while a note of it is put, and grows for one beyond', () => {
  fc.assert(
    fc.property(clips, clips, (before, after) => {
      const first = keptRange(before, undefined),
        next = keptRange(after, first)
      for (const each of pitches(after)) expect(each >= next.low && each <= next.high).toBe(true)
      expect([next.low <= first.low, next.high >= first.high]).toEqual([true, true])
      if (pitches(after).every((each) => each >= first.low && each <= first.high)) expect(next).toBe(first)
    }),
  )
})

it('what is shown holds all notes and two octaves', () => {
  fc.assert(
    fc.property(clips, (clip) => {
      const { low, high } = shownNotes(clip)
      expect(high - low).toBeGreaterThanOrEqual(24)
      expect([low >= 0, high <= 127]).toEqual([true, true])
      for (const each of pitches(clip)) expect(each >= low && each <= high).toBe(true)
    }),
  )
})
