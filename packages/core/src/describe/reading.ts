/**
 * The one reader of every number that is typed: values with the units that make sense where they stand, relative ones,
 * and amounts of cables in the units of what they move.
 */
import { described } from '../units/described.ts'
import { own } from '../units/own.ts'
import { hzOfNote, noteValueSeconds, parseNote } from '../units/units.ts'
import { printNumber } from './fields.ts'
import type { NumberParam, ParamDescription } from './types.ts'

export type Parsed =
  { readonly ok: true; readonly value: number } | { readonly ok: false; readonly message: string }

/** What a number counts: each in one base unit. */
type Dimension =
  'hertz' | 'seconds' | 'octaves' | 'decibels' | 'share' | 'bpm' | 'samples' | 'degrees' | 'slope' | 'plain'

interface Unit {
  readonly dimension: Dimension
  /** Base units in one of it. */
  readonly size: number
}
const unit = (dimension: Dimension, size = 1): Unit => ({ dimension, size })
const SEMITONE = 1 / 12,
  CENT = 1 / 1200,
  PERCENT = 0.01,
  MILLI = 0.001

/** Units as people write them. */
const WRITTEN: Readonly<Record<string, Unit>> = {
  hz: unit('hertz'),
  khz: unit('hertz', 1000),
  k: unit('hertz', 1000),
  '/s': unit('hertz'),
  s: unit('seconds'),
  sec: unit('seconds'),
  ms: unit('seconds', MILLI),
  min: unit('seconds', 60),
  oct: unit('octaves'),
  st: unit('octaves', SEMITONE),
  semi: unit('octaves', SEMITONE),
  ct: unit('octaves', CENT),
  cent: unit('octaves', CENT),
  cents: unit('octaves', CENT),
  db: unit('decibels'),
  '%': unit('share', PERCENT),
  bpm: unit('bpm'),
  samples: unit('samples'),
  sa: unit('samples'),
  deg: unit('degrees'),
  '°': unit('degrees'),
  'db/oct': unit('slope'),
}

const writtenUnit = (word: string): Unit | undefined => own(WRITTEN, word.toLowerCase())

/** Units of fields, as descriptions name them. Shares are kept as they are and shown as per cent. */
const FIELDS: Readonly<Record<string, Unit>> = {
  Hz: unit('hertz'),
  '/s': unit('hertz'),
  s: unit('seconds'),
  ms: unit('seconds', MILLI),
  oct: unit('octaves'),
  st: unit('octaves', SEMITONE),
  ct: unit('octaves', CENT),
  dB: unit('decibels'),
  '%': unit('share'),
  bpm: unit('bpm'),
  samples: unit('samples'),
  deg: unit('degrees'),
  'dB/oct': unit('slope'),
  '': unit('plain'),
}

const fieldOf = (param: NumberParam): Unit => own(FIELDS, param.unit) ?? unit('plain')

const MINUTE = 60
const decibelsOf = (gain: number): number => 20 * Math.log10(gain)
const gainOf = (decibels: number): number => 10 ** (decibels / 20)

/** Ways from what was typed to what a field counts; what is missing makes no sense there. */
const WAYS: Readonly<Partial<Record<`${Dimension} ${Dimension}`, (x: number) => number>>> = {
  'seconds hertz': (x) => 1 / x,
  'hertz seconds': (x) => 1 / x,
  'bpm hertz': (x) => x / MINUTE,
  'hertz bpm': (x) => x * MINUTE,
  'bpm seconds': (x) => MINUTE / x,
  'seconds bpm': (x) => MINUTE / x,
  'share decibels': decibelsOf,
  'decibels share': gainOf,
  'share plain': (x) => x,
  'decibels plain': gainOf,
  'hertz plain': (x) => x,
  'decibels slope': (x) => x,
}

const wayTo = (from: Dimension, to: Dimension): ((x: number) => number) | undefined =>
  from === to ? (x) => x : own(WAYS as Readonly<Record<string, (x: number) => number>>, `${from} ${to}`)

/** A number that was typed, before it is known where it stands. */
interface Typed {
  /** `+7 st` adds, `× 2` multiplies; otherwise it is the value. */
  readonly does: 'is' | 'adds' | 'multiplies'
  readonly number: number
  /** A ratio such as 3/2. */
  readonly isRatio: boolean
  /** As written; empty where none is. */
  readonly unit: string
}

const NUMBER = String.raw`(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?`
const FORM = new RegExp(String.raw`^([+-]?)\s*(${NUMBER})(?:\s*/\s*(${NUMBER}))?\s*([a-z%°/]*)$`, 'i')
const FACTOR = new RegExp(String.raw`^(?:[×*x]\s*([+-]?${NUMBER})|([+-]?${NUMBER})\s*[×x])$`, 'i')

const plain = (text: string): string => text.trim().replaceAll('−', '-').replaceAll(',', '.')

const typed = (text: string): Typed | undefined => {
  const factor = FACTOR.exec(text)
  if (factor) return { does: 'multiplies', number: Number(factor[1] ?? factor[2]), isRatio: false, unit: '' }
  const match = FORM.exec(text)
  if (!match) return undefined
  const [, sign = '', top = '', bottom, word = ''] = match
  const size = bottom === undefined ? Number(top) : Number(top) / Number(bottom)
  if (!Number.isFinite(size)) return undefined
  return {
    does: sign === '+' ? 'adds' : 'is',
    number: sign === '-' ? -size : size,
    isRatio: bottom !== undefined,
    unit: word,
  }
}

const refused = (message: string): Parsed => ({ ok: false, message })
const misfit = (word: string, own: string): Parsed =>
  refused(`"${word}" does not fit here; type a value in ${own || 'plain numbers'}`)
const noNumber = (text: string, own: string): Parsed =>
  refused(`${described(text)} is not a number${own ? ` in ${own}` : ''}`)

const inside = (param: NumberParam, value: number): Parsed => {
  if (!Number.isFinite(value)) return refused('This is no value.')
  if (value < param.min)
    return refused(`${printNumber(param, value)} is below ${printNumber(param, param.min)}`)
  if (value > param.max)
    return refused(`${printNumber(param, value)} is above ${printNumber(param, param.max)}`)
  return { ok: true, value: param.whole ? Math.round(value) : value }
}

/** Notes and note values: words that are numbers in some fields. */
const named = (field: Unit, text: string, tempo: number): number | undefined => {
  const length = noteValueSeconds(text, tempo)
  if (length !== undefined) return wayTo('seconds', field.dimension)?.(length)
  const note = field.dimension === 'hertz' ? parseNote(text) : undefined
  return note === undefined ? undefined : hzOfNote(note)
}

/** What multiplies a value: a factor of it, or of the frequency or gain it stands for. */
const multiplied = (field: Unit, now: number, factor: number): number => {
  if (field.dimension === 'octaves') return now + Math.log2(factor)
  if (field.dimension === 'decibels') return now + decibelsOf(factor)
  return now * factor
}

/** What adds to a value in base units; an interval added to a frequency or time multiplies it. */
const added = (field: Unit, now: number, dimension: Dimension, number: number): number | undefined => {
  if (dimension === 'octaves' && (field.dimension === 'hertz' || field.dimension === 'seconds'))
    return now * 2 ** number
  if (dimension === 'decibels' && (field.dimension === 'share' || field.dimension === 'plain'))
    return now * gainOf(number)
  return dimension === field.dimension ? now + number : undefined
}

/** A typed number in the base unit of a field; undefined where its unit makes no sense there. */
const baseOf = (field: Unit, isShown: boolean, form: Typed, now: number): number | undefined => {
  const { does, number, isRatio } = form
  if (does === 'multiplies') return multiplied(field, now, number)
  const written = form.unit === '' ? undefined : writtenUnit(form.unit)
  if (form.unit !== '' && !written) return undefined
  if (!written && isRatio && field.dimension === 'octaves') return Math.log2(number)
  // Per cent are meant where they are shown; a ratio is one already.
  const size = written ? written.size : isShown && !isRatio ? PERCENT : field.size
  const dimension = written?.dimension ?? field.dimension
  if (does === 'adds') return added(field, now, dimension, number * size)
  return wayTo(dimension, field.dimension)?.(number * size)
}

export interface Reading {
  /** Beats per minute, for note values. */
  readonly tempo?: number
  /** The value as it stands, for what is relative. */
  readonly now?: number
}

/** A number typed in the unit it is shown in; per cent are its own where that unit is another. */
const shownNumber = (
  param: NumberParam,
  text: string,
  { tempo, now }: { readonly tempo: number; readonly now: number },
): Parsed => {
  const { param: shown, value, share } = param.shown!
  const { shown: _shown, ...bare } = param
  if (text.endsWith('%') && shown.unit !== '%') return parseNumber(bare, text, { tempo, now })
  const read = parseNumber(shown, text, { tempo, now: value(now) })
  return read.ok ? { ok: true, value: share(read.value) } : read
}

/**
 * Reads what was typed into a field: a number with or without unit, a note name for frequencies, a note value for times
 * and rates, a ratio for pitches; `+7 st` and `× 2` start from the value as it stands. The result is in the field's unit
 * and inside its range, or says what was expected.
 */
export const parseNumber = (
  param: NumberParam,
  text: string,
  { tempo = 120, now = param.default }: Reading = {},
): Parsed => {
  const clean = plain(text)
  if (param.shown) return shownNumber(param, clean, { tempo, now })
  if (param.silence !== undefined && /^(silent|off|-inf)$/i.test(clean))
    return { ok: true, value: param.silence }
  const field = fieldOf(param)
  const word = named(field, clean, tempo)
  // A note number is read as a number of the field's own unit.
  if (word !== undefined && !/^[-\d.]+$/.test(clean)) return inside(param, word / field.size)
  const form = typed(clean)
  if (!form) return noNumber(text, param.unit)
  const base = baseOf(field, param.unit === '%', form, now * field.size)
  return base === undefined ? misfit(form.unit, param.unit) : inside(param, base / field.size)
}

/** What a cable without a unit multiplies its signal by. */
const factorOf = ({ number, unit: word, does }: Typed): number | undefined => {
  if (word === '' || does === 'multiplies') return number
  const written = writtenUnit(word)
  return written && wayTo(written.dimension, 'plain')?.(number * written.size)
}

/** Octaves that a modulation takes a frequency or time by, as the amount of a cable counts them. */
const octavesFor = (field: Unit, form: Typed, set: number): number | undefined => {
  if (form.unit === '') return form.number
  const written = writtenUnit(form.unit)
  if (!written) return undefined
  const number = form.number * written.size
  if (written.dimension === 'octaves') return number
  if (written.dimension === 'share') return Math.log2(1 + number)
  // So many hertz or seconds more than what is set.
  return written.dimension === field.dimension ? Math.log2((set + number) / set) : undefined
}

const MOST = 1e6
const amountInside = (value: number): Parsed =>
  Number.isFinite(value) && Math.abs(value) <= MOST
    ? { ok: true, value }
    : refused(`An amount goes from −${MOST} to ${MOST}.`)

export interface AmountReading {
  /** What the target is set to, in its unit: for amounts in hertz or seconds. */
  readonly set?: number
  /** The amount as it stands, for `× 2`. */
  readonly now?: number
}

/** The amount of a cable on an input: a factor. */
const factorAmount = (text: string, form: Typed | undefined): Parsed => {
  const factor = form && factorOf(form)
  if (factor !== undefined) return amountInside(factor)
  return form ? misfit(form.unit, '') : noNumber(text, '')
}

/**
 * Reads the amount of a cable in the units of what it moves: octaves, semitones, cents or hertz for a frequency, per cent
 * for a share, a factor for an input. A sign is part of it. The result is as cables keep it: see `printAmount`.
 */
export const parseAmount = (
  param: ParamDescription | undefined,
  text: string,
  { set, now = 1 }: AmountReading = {},
): Parsed => {
  const form = typed(plain(text).replace(/^[±+]\s*/, ''))
  if (param?.kind !== 'number') return factorAmount(text, form)
  const isBent = param.log === true || param.time === true
  const shown = isBent ? 'oct' : param.unit
  if (!form) return noNumber(text, shown)
  if (form.does === 'multiplies') return amountInside(now * form.number)
  const field = fieldOf(param)
  const value = isBent
    ? octavesFor(field, form, (set ?? param.default) * field.size)
    : linearAmount(field, param.unit === '%', form)
  return value === undefined ? misfit(form.unit, shown) : amountInside(value)
}

/** An amount that is added in the unit of its target. A ratio is a number here, no interval. */
const linearAmount = (field: Unit, isShown: boolean, form: Typed): number | undefined => {
  const isRatio = form.isRatio && field.dimension !== 'octaves'
  const base = baseOf(field, isShown, { ...form, isRatio }, 0)
  return base === undefined ? undefined : base / field.size
}
