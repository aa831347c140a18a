/** What ends on an input, term by term: sources in the input's shape, and for its fade what ended there before. */
import type { Feed } from './flatten.ts'
import type { Place } from './place.ts'
import type { Mapping, PlanTerm, Role } from './plan.ts'
import { outputShape, type Shape, sumsVoices } from './shapes.ts'
import type { Source } from './source.ts'

/** A term and the cable it stands for; none where it only fades. */
export interface Joined {
  readonly term: PlanTerm
  readonly feed: Feed | undefined
  /** Module that writes it; undefined where the source is a parameter, or only fades. */
  readonly place: Place | undefined
}

const mappingOf = (source: Shape, target: Shape): Mapping => {
  if (source.voices === target.voices && source.sides === target.sides) return 'same'
  if (source.voices === 1 && source.sides === 1 && target.sides === 1) return 'copy'
  if (source.voices === 1 && source.sides === 2 && target.sides === 2) return 'copy'
  if (source.voices === target.voices && source.sides === 1 && target.sides === 2) return 'widen'
  return target.voices === 1 && (source.sides === 1 || target.sides === 2) ? 'sum' : 'general'
}

/** An input as its terms see it. */
interface End {
  readonly id: string
  readonly shape: Shape
  readonly isOutput: boolean
  /** Voices become one here. */
  readonly sums: boolean
  /** What is new fades in, what is gone fades out. */
  readonly fades: boolean
}

const MONO: Shape = { voices: 1, sides: 1 }

/** Number and shape of what an output gives, or what a parameter is now. */
export const signalFrom = (
  source: Source,
  id: string,
  port: string,
): { readonly signal: number; readonly shape: Shape } => {
  const place = source.places.get(id)!,
    { facts, shape, signal } = place
  const output = facts.entry.outputs.get(port)
  return {
    signal: signal + facts.form.signalAt.get(port)!,
    shape: output ? outputShape(shape, output) : isModulated(source, place, port) ? shape : MONO,
  }
}

/** Does something end on a parameter, or leave it? */
const isModulated = (source: Source, place: Place, name: string): boolean => {
  const key = `${place.module.id}.${name}`,
    { flat, before } = source
  return (
    flat.feeds.has(key) ||
    (before.exists && before.termsOf(key).size > 0 && termsOf(source, place, key, true).length > 0)
  )
}

const termFor = (
  source: Source,
  { shape, sums }: End,
  key: string,
  [id, port]: readonly [string, string],
  { amount, cable, scale }: Pick<Feed, 'amount' | 'cable' | 'scale'>,
  role: Role,
): PlanTerm => {
  const from = signalFrom(source, id, port),
    { voices, sides } = from.shape
  const plain = mappingOf(from.shape, shape)
  const origin = sums && plain !== 'general' ? source.origins.get(id) : undefined
  const term: PlanTerm = {
    key,
    source: from.signal,
    cable,
    scale,
    amount,
    // A single voice may be stolen too: its sum of one fades as any other.
    mapping: origin === undefined ? plain : 'sum',
    sourceVoices: voices,
    sourceSides: sides,
    role,
  }
  return origin === undefined ? term : { ...term, steals: origin }
}

const roleOf = ({ before }: Source, end: End, feed: Feed, wasThere: boolean): Role => {
  if (feed.base) return 'base'
  if (!end.fades) return 'steady'
  const { retired, copyOf } = before
  const goes = retired.has(end.id) || retired.has(feed.module)
  if (goes && (end.isOutput || !retired.has(end.id))) return 'leaving'
  return wasThere && !copyOf.has(feed.module) ? 'steady' : 'arriving'
}

const NO_FEEDS: readonly Feed[] = []

/** Lasting names of feeds: their source, and how many from the same one came before. */
const namesOf = (feeds: readonly Feed[]): string[] => {
  if (feeds.length === 1) return [feeds[0]!.lasting]
  const counts = new Map<string, number>()
  return feeds.map(({ from, lasting }) => {
    const n = counts.get(from) ?? 0
    counts.set(from, n + 1)
    return n === 0 ? lasting : `${from}#${n}`
  })
}

const writerOf = (place: Place, port: string): Place | undefined =>
  place.facts.entry.outputs.has(port) ? place : undefined

const endAt = ({ before, catalogue }: Source, { module, facts, shape }: Place, kindFades: boolean): End => {
  const { id } = module,
    isOutput = facts.entry.description.role === 'output'
  // What is faded in as a whole has nothing to fade at its inputs.
  const isThere = before.exists && (before.module(id) !== undefined || isOutput) && !before.copyOf.has(id)
  return {
    id,
    shape,
    isOutput,
    sums: shape.voices === 1 && sumsVoices(module, catalogue),
    fades: kindFades && isThere,
  }
}

/** Terms of an input: what ends on it now, and while it fades also what ended on it before. */
export const termsOf = (source: Source, place: Place, key: string, kindFades: boolean): Joined[] => {
  const { flat, before, places } = source
  const feeds = flat.feeds.get(key) ?? NO_FEEDS
  if (feeds.length === 0 && !before.exists) return []
  const end = endAt(source, place, kindFades)
  const names = namesOf(feeds)
  const termOf = (feed: Feed, name: string, role: Role): Joined => ({
    term: termFor(source, end, name, [feed.module, feed.port], feed, role),
    feed,
    place: writerOf(places.get(feed.module)!, feed.port),
  })
  // Nothing played before: nothing fades.
  if (!before.exists)
    return feeds.map((feed, index) => termOf(feed, names[index]!, feed.base ? 'base' : 'steady'))
  const was = before.termsOf(key),
    now = new Set(names)
  const joined = feeds.map((feed, index) => {
    const name = names[index]!
    return termOf(feed, name, roleOf(source, end, feed, was.has(name)))
  })
  if (!end.fades) return joined
  for (const [name, amount] of was) {
    const [from, lasting] = before.leavingFrom(name),
      dot = from.indexOf('.')
    const id = from.slice(0, dot),
      port = from.slice(dot + 1)
    if ((lasting === name && now.has(name)) || !places.get(id)?.facts.entry.outputs.has(port)) continue
    const left = { amount, cable: undefined, scale: 1 }
    const term = termFor(source, end, lasting, [id, port], left, 'leaving')
    joined.push({ term: { ...term, was: name }, feed: undefined, place: undefined })
  }
  return joined
}
