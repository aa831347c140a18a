/** What a kit is to be: the file's fields, their standard values, and what is wrong with them by its place. */
import { array, lazy, object, type Schema } from 'yup'
import type { BitDepth } from '../../formats/wav.ts'
import { between, faultsOf, flag, list, text, typeError, word } from '../../patch/shape.ts'
import { type Fault, oneLine, type Result } from '../../patch/types.ts'
import { described } from '../../units/described.ts'
import { own } from '../../units/own.ts'
import type { ChainStep } from '../step.ts'
import { nameFaults, standardName } from './names.ts'

export const KIT_VERSION = 1

/** A kit as its file describes it, everything left out filled in. */
export interface KitDescription {
  /** The patch it is played on: a hash or a file. */
  readonly patch: string
  /** Keys, each once, rising. */
  readonly notes: readonly number[]
  /** 0 < v ≤ 1, rising. */
  readonly velocities: readonly number[]
  readonly takes: number
  /** 0: the patch as it is. */
  readonly variations: number
  /** Of the first take; the patch's own where it is left out. */
  readonly seed?: number
  /** Seconds a note is held. */
  readonly hold: number
  /** A sound ends so far below its peak, or so many seconds after its note. */
  readonly tail: { readonly db: number; readonly most: number }
  readonly rate: number
  readonly bits: BitDepth
  /** Loudness of every note of the loudest layer, LUFS; undefined where levels stay. */
  readonly align?: number
  readonly trim: boolean
  readonly loop: 'auto' | 'off'
  readonly chain: readonly ChainStep[]
  readonly name: string
  readonly sfz: boolean
  readonly zip: boolean
  /** A file of its own from the end of the note on. */
  readonly release: boolean
  /** Steps of velocity, 1…127, over which layers go over into each other. */
  readonly crossfade: number
  /** Keys that end each other. */
  readonly choke: readonly (readonly number[])[]
  /** Bring the pitch of every file to its key. */
  readonly correct: boolean
}

const MOST_TAKES = 64,
  MOST_VARIATIONS = 1000,
  MOST_LAYERS = 127,
  MOST_FILES = 20_000
const LONGEST_HOLD = 600,
  LONGEST_TAIL = 120
/** Steps of velocity as files for samplers count them. */
export const VELOCITY_STEPS = 127

const whole = (low: number, high: number) => between(low, high).integer('is not a whole number')
const key = () => whole(0, 127)

const range = object({
  from: key().required('is missing'),
  to: key().required('is missing'),
  step: whole(1, 127),
})
  .strict()
  .typeError(typeError('a range of keys, or a list of them'))

const either = (isOne: (value: unknown) => boolean, one: Schema, other: Schema) =>
  lazy((value: unknown) => (isOne(value) ? one : other))

const kitSchema = object({
  format: text()
    .required('is missing')
    .oneOf(['ypsilon/kit'], ({ value }) => `${described(value)} is not "ypsilon/kit"`),
  version: whole(1, KIT_VERSION).required('is missing'),
  patch: text().required('is missing'),
  notes: either(Array.isArray, list(key()).min(1, 'is empty'), range),
  velocities: list(between(0, 1).test('heard', 'is 0, which is no note', (value) => value !== 0))
    .min(1, 'is empty')
    .max(MOST_LAYERS, `holds more than ${MOST_LAYERS}`),
  takes: whole(1, MOST_TAKES),
  variations: whole(0, MOST_VARIATIONS),
  seed: whole(-(2 ** 53), 2 ** 53),
  hold: between(0.001, LONGEST_HOLD),
  tail: object({ db: between(-120, -20), most: between(0, LONGEST_TAIL) })
    .strict()
    .typeError(typeError('an object')),
  rate: whole(8000, 192_000),
  bits: word(['16', '24', '32f']),
  align: object({ mode: word(['notes', 'off']), lufs: between(-60, 0) })
    .strict()
    .default(undefined)
    .typeError(typeError('an object')),
  trim: flag(),
  loop: word(['auto', 'off']),
  chain: array().strict().typeError(typeError('a list of steps')),
  name: text(),
  sfz: flag(),
  zip: flag(),
  release: flag(),
  crossfade: whole(0, 126),
  choke: either((value) => typeof value === 'boolean', flag(), list(list(key()).min(1, 'is empty'))),
  correct: flag(),
})
  .strict()
  .typeError(typeError('a kit'))

const FIELDS: ReadonlySet<string> = new Set(Object.keys(kitSchema.fields))

type Fields = Readonly<Record<string, unknown>>

const keysOf = (notes: unknown): number[] => {
  if (Array.isArray(notes)) return [...new Set(notes as number[])].sort((a, b) => a - b)
  const {
    from,
    to,
    step = 1,
  } = (notes ?? { from: 36, to: 84, step: 3 }) as {
    from: number
    to: number
    step?: number
  }
  return Array.from({ length: Math.max(0, Math.floor((to - from) / step) + 1) }, (_, n) => from + n * step)
}

/** A velocity as files for samplers count it: 1…127. */
export const velocityStep = (velocity: number): number => Math.max(1, Math.round(VELOCITY_STEPS * velocity))

const chokesOf = (choke: unknown, notes: readonly number[]): readonly (readonly number[])[] =>
  choke === true ? [notes] : Array.isArray(choke) ? (choke as number[][]) : []

const filledIn = (fields: Fields): KitDescription => {
  const at = <T>(name: string, standard: T): T => (own(fields, name) as T | undefined) ?? standard
  const notes = keysOf(own(fields, 'notes')),
    velocities = [...at<number[]>('velocities', [1])].sort((a, b) => a - b),
    takes = at('takes', 1),
    variations = at('variations', 0)
  const seed = own(fields, 'seed') as number | undefined,
    align = own(fields, 'align') as { mode?: string; lufs?: number } | undefined
  return {
    patch: at('patch', ''),
    notes,
    velocities,
    takes,
    variations,
    ...(seed === undefined ? {} : { seed }),
    hold: at('hold', 2),
    tail: { db: -60, most: 10, ...at('tail', {}) },
    rate: at('rate', 48000),
    bits: at<BitDepth>('bits', '24'),
    ...(align === undefined || align.mode === 'off' ? {} : { align: align.lufs ?? -18 }),
    trim: at('trim', true),
    loop: at<'auto' | 'off'>('loop', 'off'),
    chain: at<readonly ChainStep[]>('chain', []),
    name: at('name', standardName({ velocities: velocities.length, takes, variations })),
    sfz: at('sfz', false),
    zip: at('zip', false),
    release: at('release', false),
    crossfade: at('crossfade', 0),
    choke: chokesOf(own(fields, 'choke'), notes),
    correct: at('correct', false),
  }
}

/** What does not go together. */
const meaningFaults = (kit: KitDescription, fields: Fields): Fault[] => {
  const faults: Fault[] = []
  const { notes, velocities, takes, variations } = kit
  if (notes.length === 0) faults.push({ place: 'notes', message: 'holds no key: it ends before it begins' })
  velocities.forEach((velocity, n) => {
    const before = velocities[n - 1]
    if (before !== undefined && velocityStep(before) === velocityStep(velocity))
      faults.push({
        place: 'velocities',
        message: `${before} and ${velocity} are the same of ${VELOCITY_STEPS} steps`,
      })
  })
  kit.choke.forEach((group, n) => {
    const other = group.find((note) => !notes.includes(note))
    if (other !== undefined) faults.push({ place: `choke[${n}]`, message: `${other} is no key of this kit` })
    const twice = group.find((note) => kit.choke.some((list, m) => m < n && list.includes(note)))
    if (twice !== undefined)
      faults.push({ place: `choke[${n}]`, message: `${twice} is in another group already` })
  })
  if (kit.crossfade > 0 && velocities.length < 2)
    faults.push({ place: 'crossfade', message: 'there is one layer alone' })
  const files = notes.length * velocities.length * takes * Math.max(1, variations) * (kit.release ? 2 : 1)
  if (files > MOST_FILES)
    faults.push({ place: '', message: `this is a kit of ${files} files, more than ${MOST_FILES}` })
  for (const message of nameFaults(kit.name, {
    velocities: velocities.length,
    takes,
    variations,
    notes: notes.length,
  }))
    faults.push({ place: own(fields, 'name') === undefined ? 'patch' : 'name', message })
  return faults
}

/** A kit from what its file holds. Fields it does not know are told and change nothing. */
export const parseKit = (value: unknown): Result<KitDescription> => {
  const faults = faultsOf(kitSchema, value, '')
  if (faults.length > 0) return { ok: false, faults }
  const fields = value as Fields,
    kit = filledIn(fields)
  const wrong = meaningFaults(kit, fields)
  if (wrong.length > 0) return { ok: false, faults: wrong }
  const unknown = Object.keys(fields).filter((name) => !FIELDS.has(name))
  return {
    ok: true,
    value: kit,
    warnings: unknown.map((name) => ({ place: oneLine(name), message: 'is not known; it changes nothing' })),
  }
}
