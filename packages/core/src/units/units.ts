/** Notes, hertz, decibels and note values. */
import { own } from './own.ts'

const LETTERS: Readonly<Record<string, number>> = { c: 0, d: 2, e: 4, f: 5, g: 7, a: 9, b: 11 }
const NAMES = ['C', 'C#', 'D', 'D#', 'E', 'F', 'F#', 'G', 'G#', 'A', 'A#', 'B'] as const
/** Frequency of note 60. */
export const C4_HZ = 261.6256

/** `60`, `60.5`, `C#3`, `Bb2` → note number (C4 = 60); undefined when it is none. */
export const parseNote = (text: string): number | undefined => {
  const trimmed = text.trim()
  if (/^-?\d+(\.\d+)?$/.test(trimmed)) return Number(trimmed)
  const match = /^([a-gA-G])(#|b|♯|♭)?(-?\d+)$/.exec(trimmed)
  if (!match) return undefined
  const accidental = match[2] === undefined ? 0 : match[2] === '#' || match[2] === '♯' ? 1 : -1
  return own(LETTERS, match[1]!.toLowerCase())! + accidental + 12 * (Number(match[3]) + 1)
}

/** `A2` for 45; cents are added where the note is not whole: `A2 +12 ct`. */
export const noteName = (note: number): string => {
  const whole = Math.round(note)
  const cents = Math.round((note - whole) * 100)
  const name = `${NAMES[((whole % 12) + 12) % 12]}${Math.floor(whole / 12) - 1}`
  return cents === 0 ? name : `${name} ${cents > 0 ? '+' : '−'}${Math.abs(cents)} ct`
}

/** Note number of a frequency; for display only. */
export const noteOfHz = (hz: number): number => 60 + 12 * Math.log2(hz / C4_HZ)
export const hzOfNote = (note: number): number => C4_HZ * 2 ** ((note - 60) / 12)
/** For display only: kernels compute their own. */
export const dbOfGain = (gain: number): number => 20 * Math.log10(Math.abs(gain))

/** `1/8.` at a tempo → seconds; undefined when it is no note value. */
export const noteValueSeconds = (text: string, tempo: number): number | undefined => {
  const match = /^1\/(1|2|4|8|16|32|64)([.td]?)$/.exec(text)
  if (!match) return undefined
  const plain = 4 / Number(match[1])
  return (
    (60 / tempo) *
    (match[2] === '.' || match[2] === 'd' ? plain * 1.5 : match[2] === 't' ? (plain * 2) / 3 : plain)
  )
}
