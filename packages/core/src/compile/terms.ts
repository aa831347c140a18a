/** What ends on an input, term by term: sources in the input's shape, and for its fade what ended there before. */
import type { PatchModule } from '../patch/types.ts'
import type { Draft, Source } from './draft.ts'
import type { Feed } from './flatten.ts'
import type { Mapping, PlanTerm, Role } from './plan.ts'
import { type Shape, sumsVoices } from './shapes.ts'

/** A term and the cable it stands for; none where it only fades. */
export interface Joined {
  readonly term: PlanTerm
  readonly feed: Feed | undefined
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
  readonly module: PatchModule
  readonly shape: Shape
  readonly isOutput: boolean
  /** Voices become one here. */
  readonly sums: boolean
  /** What is new fades in, what is gone fades out. */
  readonly fades: boolean
}

const termFor = (
  draft: Draft,
  { origins }: Source,
  { shape, sums }: End,
  key: string,
  from: string,
  { amount, cable, scale }: Pick<Feed, 'amount' | 'cable' | 'scale'>,
  role: Role,
): PlanTerm => {
  const source = draft.outputs.get(from) ?? draft.readParams.get(from)!
  const { voices, sides } = draft.signals[source]!
  const plain = mappingOf({ voices, sides }, shape)
  const origin = sums && plain !== 'general' ? origins.get(from.slice(0, from.indexOf('.'))) : undefined
  const term: PlanTerm = {
    key,
    source,
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
  const goes = retired.has(end.module.id) || retired.has(feed.module)
  if (goes && (end.isOutput || !retired.has(end.module.id))) return 'leaving'
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

/** Terms of an input: what ends on it now, and while it fades also what ended on it before. */
export const termsOf = (
  draft: Draft,
  source: Source,
  module: PatchModule,
  input: string,
  shape: Shape,
  kindFades: boolean,
): Joined[] => {
  const { flat, catalogue, before } = source
  const isOutput = catalogue.get(module.type)!.description.role === 'output'
  const key = `${module.id}.${input}`
  const end: End = {
    module,
    shape,
    isOutput,
    sums: shape.voices === 1 && sumsVoices(module, catalogue),
    // What is faded in as a whole has nothing to fade at its inputs.
    fades:
      kindFades &&
      before.exists &&
      (before.modules.has(module.id) || isOutput) &&
      !before.copyOf.has(module.id),
  }
  const feeds = flat.feeds.get(key) ?? NO_FEEDS,
    names = namesOf(feeds)
  // Nothing played before: nothing fades, and most inputs have one source.
  if (!before.exists)
    return feeds.map((feed, index) => ({
      term: termFor(draft, source, end, names[index]!, feed.from, feed, feed.base ? 'base' : 'steady'),
      feed,
    }))
  const was = before.termsOf(key),
    now = new Set<string>()
  const joined = feeds.map((feed, index): Joined => {
    const name = names[index]!
    now.add(name)
    return {
      term: termFor(draft, source, end, name, feed.from, feed, roleOf(source, end, feed, was.has(name))),
      feed,
    }
  })
  if (!end.fades) return joined
  for (const [name, amount] of was) {
    const [from, lasting] = before.leavingFrom(name)
    if ((lasting === name && now.has(name)) || !draft.outputs.has(from)) continue
    const left = { amount, cable: undefined, scale: 1 }
    joined.push({
      term: { ...termFor(draft, source, end, lasting, from, left, 'leaving'), was: name },
      feed: undefined,
    })
  }
  return joined
}
