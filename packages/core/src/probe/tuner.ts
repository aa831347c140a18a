/** The note that sounds, how far it is off, and how that has moved. */
import { pitchOf } from '../analysis/pitch.ts'
import { hzOfNote, noteName, noteOfHz } from '../units/units.ts'
import { finite, type Plot } from './plot.ts'
import type { Tape } from './tape.ts'

/** Frames a pitch is found in, and how often one is looked for. */
const FRAMES = 16384,
  STEP_SECONDS = 0.1
const HISTORY = 100,
  SPAN_SECONDS = HISTORY * STEP_SECONDS
const MOST_CENTS = 50

export class Tuner {
  private pitches: (number | undefined)[] = []
  private lookedAt = -Infinity

  look(tape: Tape, isWhole = false): Plot {
    const { rate } = tape
    if (tape.position < this.lookedAt) this.pitches = []
    if (tape.position < this.lookedAt || tape.position - this.lookedAt >= STEP_SECONDS * rate) {
      this.lookedAt = tape.position
      this.pitches = [
        ...this.pitches.slice(1 - HISTORY),
        pitchOf(tape.last(isWhole ? tape.frames : FRAMES), rate),
      ]
    }
    const hz = this.pitches.at(-1),
      note = hz === undefined ? undefined : Math.round(noteOfHz(hz))
    const cents = (of: number): number => 1200 * Math.log2(of / hzOfNote(note!))
    const heard = this.pitches.flatMap((pitch, index) =>
      pitch === undefined || note === undefined || Math.abs(cents(pitch)) > MOST_CENTS
        ? []
        : [[(index - this.pitches.length + 1) * STEP_SECONDS, cents(pitch)] as const],
    )
    return {
      across: { unit: 's', scale: 'linear', from: -SPAN_SECONDS, to: 0 },
      up: { unit: 'ct', scale: 'linear', from: -MOST_CENTS, to: MOST_CENTS },
      curves: [
        {
          name: 'cents',
          x: Float32Array.from(heard, ([at]) => at),
          y: Float32Array.from(heard, ([, of]) => of),
          style: 'line',
        },
      ],
      marks: [],
      readings: [
        { name: 'pitch', value: finite(hz), unit: 'Hz' },
        { name: 'off', value: hz === undefined ? null : cents(hz), unit: 'ct' },
      ],
      headline: note === undefined ? 'no pitch' : noteName(note),
    }
  }
}
