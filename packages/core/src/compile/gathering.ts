/** Sources of an input: cables from outputs, and what comes through what is dissolved. */
import type { Cable } from '../patch/types.ts'
import type { Ending, HeldCable } from './passages.ts'

/** A source that ends on an input, after groups, buses and bypassed modules are dissolved. */
export interface Feed {
  /** `module.port`. */
  readonly from: string
  readonly module: string
  readonly port: string
  readonly amount: number
  /** Id of the cable whose amount may be set while playing. */
  readonly cable: string | undefined
  /** What that cable's amount is multiplied by on the way. */
  readonly scale: number
  /** The cable's place in file order. */
  readonly order: number
  /** Text of the last cable, for reports: `a.out > b.in`. */
  readonly name: string
  /** Its name as a term, where it is the first of its source on an input. */
  readonly lasting: string
  /** Gives a parameter its base value: from a formula in its field. */
  readonly base: boolean
}

const NO_FEEDS: readonly Feed[] = []
/** Sources that may come together through buses and groups in one patch, counted once for every input they end on. */
export const MOST_FEEDS = 250_000

/** Adds up what comes the same way: from one source, with the same cable to set. */
export const merged = (feeds: readonly Feed[]): Feed[] => {
  const ways = new Map<string, Feed>()
  for (const feed of feeds) {
    const way = `${feed.from} ${feed.cable ?? ''}`
    const same = ways.get(way)
    ways.set(
      way,
      same ? { ...same, amount: same.amount + feed.amount, scale: same.scale + feed.scale } : feed,
    )
  }
  return [...ways.values()]
}

const direct = new WeakMap<Cable, Feed>()

/** A cable from a real output; the same object from patch to patch while nothing about it changes. */
export const directFeed = (cable: Cable, order: number, base: boolean, from: string): Feed => {
  const last = direct.get(cable)
  if (last && last.order === order && last.base === base && last.from === from) return last
  const amount = cable.amount ?? 1,
    dot = from.indexOf('.')
  const feed: Feed = {
    from,
    module: from.slice(0, dot),
    port: from.slice(dot + 1),
    lasting: `${from}#0`,
    amount,
    cable: cable.id,
    scale: cable.id === undefined ? amount : 1,
    order,
    name: `${cable.from} > ${cable.to}`,
    base,
  }
  direct.set(cable, feed)
  return feed
}

/** What comes together at each key: sources of cables, and what they pass on. One for a patch. */
export class Gathering {
  readonly shadowed = new Set<string>()
  /** What is passed on by everything that is dissolved. */
  readonly passed = new Map<string, readonly Feed[]>()
  overfull: string | undefined
  /** Sources found so far. */
  count = 0

  constructor(
    private readonly ending: ReadonlyMap<string, readonly Ending[]>,
    /** Hidden formulas: what they bring is a base value. */
    private readonly formulas: ReadonlyMap<string, string>,
    private readonly held: ReadonlyMap<string, HeldCable>,
  ) {}

  /** Everything that ends at a key, in file order; not all of it where more meets than can be played. */
  at(key: string): Feed[] {
    const found: Feed[] = []
    for (const item of this.ending.get(key) ?? []) {
      const sources = item.through === undefined ? undefined : (this.passed.get(item.through) ?? NO_FEEDS)
      this.count += sources?.length ?? 1
      if (this.count > MOST_FEEDS) {
        this.overfull ??= key
        return found
      }
      if (sources) for (const feed of sources) found.push(this.passedOn(item, feed))
      else found.push(this.direct(item))
    }
    return found
  }

  private direct({ cable, order, module, port }: Ending): Feed {
    const base = this.formulas.has(module) || cable['base'] === true
    return directFeed(cable, order, base, this.held.has(module) ? `${module}.${port}` : cable.from)
  }

  /** A source as it comes through one more cable: the first one that has an id is the one to set. */
  private passedOn({ cable, order }: Ending, feed: Feed): Feed {
    const amount = cable.amount ?? 1,
      isSet = feed.cable !== undefined
    if (isSet && cable.id !== undefined) this.shadowed.add(cable.id)
    return {
      ...feed,
      amount: amount * feed.amount,
      cable: feed.cable ?? cable.id,
      scale: isSet || cable.id === undefined ? amount * feed.scale : feed.scale,
      order,
      name: `${cable.from} > ${cable.to}`,
    }
  }
}
