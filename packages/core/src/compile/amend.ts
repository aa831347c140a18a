/**
 * A flat patch after an edit of cables alone. What ends on an input depends on nothing but the cables that end there, as
 * long as none of them passes through something that is dissolved; so one cable more makes one list anew.
 */
import type { Catalogue } from '../catalogue.ts'
import { patchIndex } from '../patch/index.ts'
import type { Cable, Patch } from '../patch/types.ts'
import { endsOf } from '../patch/walk.ts'
import type { FlatPatch } from './flatten.ts'
import { directFeed, type Feed, MOST_FEEDS } from './gathering.ts'
import { FORMULA_ORDER } from './passages.ts'
import { carryWiring } from './wiring.ts'

/** Beyond so many cables at once, all is gathered anew. */
const MOST_CHANGED = 64

/** A stretch of a list that differs from another: `was` has `start` … `endWas`, `now` has `start` … `endNow`. */
const difference = <T>(
  was: readonly T[],
  now: readonly T[],
): { readonly start: number; readonly endWas: number; readonly endNow: number } => {
  let start = 0,
    endWas = was.length,
    endNow = now.length
  while (start < endWas && start < endNow && was[start] === now[start]) start += 1
  while (endWas > start && endNow > start && was[endWas - 1] === now[endNow - 1]) {
    endWas -= 1
    endNow -= 1
  }
  return { start, endWas, endNow }
}

const cablesOf = (patch: Patch): readonly Cable[] => patch.cables ?? []

const heardIn = (cables: readonly Cable[]): number => cables.filter(({ muted }) => muted !== true).length

/** A flat patch, and what it takes to go on from it. */
export class Amendable {
  private readonly cables: readonly Cable[]

  constructor(
    readonly flat: FlatPatch,
    private readonly patch: Patch,
    private readonly catalogue: Catalogue,
    /** Sources on all inputs together. */
    private readonly count: number,
    /** Places of the cables in file order. They rise, and stay as they are when others come and go. */
    private readonly orders: readonly number[] = cablesOf(patch).map((_, order) => order),
    /** Place of what comes after them. */
    private readonly after: number = patchIndex(patch).cables.length > orders.length
      ? orders.length
      : FORMULA_ORDER,
  ) {
    this.cables = cablesOf(patch)
  }

  /** The same for a patch of the same modules; undefined where it has to be made from nothing. */
  next(patch: Patch, catalogue: Catalogue): Amendable | undefined {
    const { cables, flat } = this
    if (catalogue !== this.catalogue || patch.macros !== this.patch.macros || flat.overfull !== undefined)
      return undefined
    const now = cablesOf(patch),
      { start, endWas, endNow } = difference(cables, now)
    if (endWas - start + endNow - start > MOST_CHANGED) return undefined
    const gone = cables.slice(start, endWas),
      added = now.slice(start, endNow)
    const places = this.placesBetween(start, endWas, added.length)
    if (!places || ![...gone, ...added].every((cable) => this.isPlain(cable))) return undefined
    const count = this.count + heardIn(added) - heardIn(gone)
    if (count > MOST_FEEDS) return undefined
    const feeds = new Map(flat.feeds),
      touched = new Set<string>()
    const change = (cable: Cable, of: (list: readonly Feed[]) => readonly Feed[]): void => {
      if (cable.muted) return
      const list = of(feeds.get(cable.to) ?? [])
      if (list.length > 0) feeds.set(cable.to, list)
      else feeds.delete(cable.to)
      touched.add(cable.to)
    }
    gone.forEach((cable, at) => {
      change(cable, (list) => list.filter(({ order }) => order !== this.orders[start + at]))
    })
    added.forEach((cable, at) => {
      const feed = directFeed(cable, places[at]!, cable['base'] === true, cable.from)
      change(cable, (list) => {
        const later = list.findIndex(({ order }) => order > feed.order)
        return later < 0 ? [...list, feed] : [...list.slice(0, later), feed, ...list.slice(later)]
      })
    })
    const orders = [...this.orders.slice(0, start), ...places, ...this.orders.slice(endWas)]
    const amended = { ...flat, feeds, fed: this.fedAfter(feeds, touched) }
    carryWiring(flat, amended, new Set(Array.from(touched, (key) => key.slice(0, key.indexOf('.')))))
    return new Amendable(amended, patch, catalogue, count, orders, this.after)
  }

  /** Places for `count` cables in a row; undefined where numbers do not lie close enough. */
  private placesBetween(start: number, end: number, count: number): number[] | undefined {
    const low = start > 0 ? this.orders[start - 1]! : -1,
      high = this.orders[end] ?? this.after
    const step = Math.min(1, (high - low) / (count + 1))
    const places = Array.from({ length: count }, (_, at) => low + (at + 1) * step)
    return [low, ...places, high].every((place, at, all) => at === 0 || place > all[at - 1]!)
      ? places
      : undefined
  }

  /** Does a cable lead from an output of a module that runs right to an input of one, and neither is bypassed? */
  private isPlain(cable: Cable): boolean {
    const { fromModule, toModule, toPort } = endsOf(cable),
      { byId, ringing } = this.flat
    const target = byId.get(toModule)
    return (
      byId.has(fromModule) &&
      !ringing.has(fromModule) &&
      !ringing.has(toModule) &&
      target !== undefined &&
      this.catalogue.get(target.type)!.slots.inputs.has(toPort)
    )
  }

  private fedAfter(
    feeds: ReadonlyMap<string, readonly Feed[]>,
    touched: ReadonlySet<string>,
  ): FlatPatch['fed'] {
    const fed = new Map(this.flat.fed)
    for (const key of touched) {
      const dot = key.indexOf('.'),
        module = key.slice(0, dot),
        input = key.slice(dot + 1)
      const list = feeds.get(key),
        others = (fed.get(module) ?? []).filter((item) => item.input !== input)
      if (list) fed.set(module, [...others, { input, feeds: list }])
      else if (others.length > 0) fed.set(module, others)
      else fed.delete(module)
    }
    return fed
  }
}
