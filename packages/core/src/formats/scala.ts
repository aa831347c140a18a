import type { Fault } from '../patch/types.ts'
import { exactLog } from '../units/exact.ts'

/** Pitches of notes 0…127 in octaves from C4 (261.6256 Hz); NaN where a key has no note. */
export type Tuning = readonly number[]
export interface Scale {
  readonly description: string
  /** Octaves above the first note, the last being the period. */ readonly degrees: readonly number[]
}
export interface Keys {
  readonly first: number
  readonly last: number
  readonly middle: number
  readonly reference: number
  readonly hertz: number
  readonly period: number
  /** Degree of each key, undefined where there is none. */ readonly map: readonly (number | undefined)[]
}

export type ScalaResult<T> =
  { readonly ok: true; readonly value: T } | { readonly ok: false; readonly fault: Fault }

const C4 = 261.6256
const MOST = 1024
const log2 = (x: number): number => exactLog(x) / 0.6931471805599453
const bad = (line: number, message: string): { ok: false; fault: Fault } => ({
  ok: false,
  fault: { place: `line ${line}`, message },
})

interface Line {
  readonly line: number
  readonly text: string
}

/** Lines that are no comments, with their numbers. */
const linesOf = (text: string): Line[] =>
  text
    .split(/\r\n|\r|\n/)
    .map((item, index) => ({ line: index + 1, text: item.trim() }))
    .filter((item) => !item.text.startsWith('!'))

/** A pitch of a scale: with a point in cents, else a ratio. */
const degreeOf = (text: string): number | undefined => {
  const [word = ''] = text.split(/\s+/)
  if (/^-?\d*\.\d*$/.test(word) && /\d/.test(word)) return Number(word) / 1200
  const ratio = /^(\d+)(?:\/(\d+))?$/.exec(word)
  if (!ratio) return undefined
  const over = Number(ratio[1]),
    under = Number(ratio[2] ?? 1)
  return over > 0 && under > 0 && over / under < 1e9 ? log2(over / under) : undefined
}

/** The pitches of a scale, as many as it announces. */
const degreesOf = (lines: readonly Line[], size: number): ScalaResult<number[]> => {
  const degrees: number[] = []
  for (const item of lines) {
    if (degrees.length === size) break
    if (item.text === '') continue
    const degree = degreeOf(item.text)
    if (degree === undefined || !Number.isFinite(degree))
      return bad(
        item.line,
        `"${item.text.slice(0, 40)}" is no pitch: expected cents with a point (701.955) or a ratio (3/2)`,
      )
    degrees.push(degree)
  }
  return { ok: true, value: degrees }
}

/** Reads a scale file (.scl): a description, the number of notes, then a pitch on each line. */
export const parseScale = (text: string): ScalaResult<Scale> => {
  const [title, count, ...rest] = linesOf(text)
  if (!title || !count) return bad(1, 'is no scale: expected a description and the number of notes')
  const size = /^\d+/.test(count.text) ? Number(count.text.split(/\s+/)[0]) : NaN
  if (!Number.isInteger(size) || size < 1 || size > MOST)
    return bad(count.line, `expected the number of notes, 1…${MOST}, found "${count.text.slice(0, 40)}"`)
  const read = degreesOf(rest, size)
  if (!read.ok) return read
  const degrees = read.value
  if (degrees.length < size) return bad(count.line, `${size} notes are announced, ${degrees.length} follow`)
  if (degrees.at(-1)! <= 0)
    return bad(rest.at(-1)?.line ?? count.line, 'the last note is the period and must lie above the first')
  return { ok: true, value: { description: title.text, degrees } }
}

const NUMBERS = [
  'size of the map',
  'first key',
  'last key',
  'middle key',
  'reference key',
  'reference frequency',
  'degree of the period',
] as const

type Head = [
  size: number,
  first: number,
  last: number,
  middle: number,
  reference: number,
  hertz: number,
  period: number,
]

/** The seven numbers a keyboard map begins with. */
const headOf = (lines: readonly Line[]): ScalaResult<Head> => {
  const values: number[] = []
  for (const [index, name] of NUMBERS.entries()) {
    const item = lines[index]
    const value = item ? Number(item.text.split(/\s+/)[0]) : NaN
    if (!item || !Number.isFinite(value))
      return bad(item?.line ?? 1, `expected the ${name}${item ? `, found "${item.text.slice(0, 40)}"` : ''}`)
    values.push(value)
  }
  return { ok: true, value: values as Head }
}

const headFault = (
  [size, first, last, middle, reference, hertz]: Head,
  lines: readonly Line[],
): ReturnType<typeof bad> | undefined => {
  const keys: readonly (readonly [string, number])[] = [
    ['first key', first],
    ['last key', last],
    ['middle key', middle],
    ['reference key', reference],
  ]
  for (const [name, value] of keys)
    if (!Number.isInteger(value) || value < 0 || value > 127)
      return bad(1, `the ${name} ${value} is outside 0…127`)
  if (!Number.isInteger(size) || size < 0 || size > MOST)
    return bad(lines[0]!.line, `the size of the map ${size} is outside 0…${MOST}`)
  return hertz > 0 && hertz < 1e6 ? undefined : bad(lines[5]!.line, `${hertz} is no frequency in hertz`)
}

/** Reads a keyboard map (.kbm). */
export const parseKeys = (text: string): ScalaResult<Keys> => {
  const lines = linesOf(text).filter((item) => item.text !== '')
  const head = headOf(lines)
  if (!head.ok) return head
  const fault = headFault(head.value, lines)
  if (fault) return fault
  const [size, first, last, middle, reference, hertz, period] = head.value
  const map: (number | undefined)[] = []
  for (const item of lines.slice(NUMBERS.length, NUMBERS.length + size)) {
    const [word = ''] = item.text.split(/\s+/)
    const degree = Number(word)
    if (word.toLowerCase() !== 'x' && !Number.isInteger(degree))
      return bad(item.line, `expected a degree or x, found "${item.text.slice(0, 40)}"`)
    map.push(word.toLowerCase() === 'x' ? undefined : degree)
  }
  return { ok: true, value: { first, last, middle, reference, hertz, period, map } }
}

/** Without a map: every key in turn, C4 as it always is. */
const PLAIN: Keys = { first: 0, last: 127, middle: 60, reference: 60, hertz: C4, period: 0, map: [] }

/** Octaves of a degree above the first note, degrees beyond the period included. */
const octavesOf = (scale: Scale, degree: number): number => {
  const size = scale.degrees.length,
    period = scale.degrees[size - 1]!
  const rounds = Math.floor(degree / size),
    rest = degree - rounds * size
  return rounds * period + (rest === 0 ? 0 : scale.degrees[rest - 1]!)
}

/** Pitches of all keys. */
export const tuningOf = (scale: Scale, keys: Keys = PLAIN): Tuning => {
  const above = (key: number): number => {
    const distance = key - keys.middle
    if (keys.map.length === 0) return octavesOf(scale, distance)
    const size = keys.map.length,
      rounds = Math.floor(distance / size),
      degree = keys.map[distance - rounds * size]
    const period = keys.period > 0 ? octavesOf(scale, keys.period) : scale.degrees.at(-1)!
    return degree === undefined ? NaN : octavesOf(scale, degree) + rounds * period
  }
  const base = above(keys.reference),
    reference = log2(keys.hertz / C4)
  return Array.from({ length: 128 }, (_, key) =>
    key < keys.first || key > keys.last || Number.isNaN(base) ? NaN : above(key) - base + reference,
  )
}

/** Pitch of a note, fractions between its neighbours; NaN where there is none. */
export const tunedPitch = (tuning: Tuning, note: number): number => {
  const low = Math.min(127, Math.max(0, Math.floor(note))),
    share = note - low
  const a = tuning[low]!
  return share === 0 ? a : a + ((tuning[Math.min(127, low + 1)] ?? a) - a) * share
}
