/** Level or upright runs of cables: where one lies, what else may not, and what it crosses is counted. */
import { LANE } from '@ypsilon/core'

/** Runs are kept by strips of so many pixels across. */
const STRIP = 28
/** Of a source's own runs no more are offered than these. */
const MOST_OWN = 12

interface Run {
  /** The cable it belongs to. */
  readonly owner: string
  readonly source: string
  /** Where it lies across. */
  readonly at: number
  readonly from: number
  readonly to: number
}

export class Runs {
  private readonly strips = new Map<number, Run[]>()
  private readonly owned = new Map<string, Run[]>()
  private readonly bySource = new Map<string, Set<Run>>()

  add(owner: string, source: string, at: number, a: number, b: number): void {
    const run: Run = { owner, source, at, from: Math.min(a, b), to: Math.max(a, b) }
    const strip = Math.floor(at / STRIP),
      there = this.strips.get(strip),
      own = this.owned.get(owner)
    if (there) there.push(run)
    else this.strips.set(strip, [run])
    if (own) own.push(run)
    else this.owned.set(owner, [run])
    const beside = this.bySource.get(source)
    if (beside) beside.add(run)
    else this.bySource.set(source, new Set([run]))
  }

  /** What an owner holds is free again. */
  release(owner: string): void {
    for (const run of this.owned.get(owner) ?? []) {
      const strip = Math.floor(run.at / STRIP),
        left = this.strips.get(strip)!.filter((other) => other !== run)
      if (left.length > 0) this.strips.set(strip, left)
      else this.strips.delete(strip)
      this.bySource.get(run.source)?.delete(run)
    }
    this.owned.delete(owner)
  }

  /** How far a run of a source would lie on or too near those of others. */
  beside(source: string, at: number, a: number, b: number): number {
    const from = Math.min(a, b),
      to = Math.max(a, b)
    let length = 0
    for (let strip = Math.floor((at - LANE) / STRIP); strip <= Math.floor((at + LANE) / STRIP); strip += 1)
      for (const run of this.strips.get(strip) ?? [])
        if (run.source !== source && Math.abs(run.at - at) < LANE - 0.5 && run.from < to && run.to > from)
          length += Math.min(run.to, to) - Math.max(run.from, from)
    return length
  }

  /** How far a run of a source would go right beside its own ones, where one line would do for both. */
  doubled(source: string, at: number, a: number, b: number): number {
    const from = Math.min(a, b),
      to = Math.max(a, b)
    let length = 0
    for (const run of this.bySource.get(source) ?? []) {
      const apart = Math.abs(run.at - at)
      if (apart > 0.5 && apart <= 2 * LANE)
        length += Math.max(0, Math.min(run.to, to) - Math.max(run.from, from) - 2 * LANE)
    }
    return length
  }

  /** The free place nearest to a wanted one, within limits, that is clear of all else; undefined where there is none. */
  nearest(
    source: string,
    wanted: number,
    [a, b]: readonly [number, number],
    [low, high]: readonly [number, number],
    isClear: (at: number) => boolean = () => true,
  ): number | undefined {
    for (let step = 0; ; step += 1) {
      const up = wanted + step * LANE,
        down = wanted - step * LANE
      if (up > high && down < low) return undefined
      if (down >= low && down <= high && this.beside(source, down, a, b) === 0 && isClear(down)) return down
      if (step > 0 && up <= high && up >= low && this.beside(source, up, a, b) === 0 && isClear(up)) return up
    }
  }

  /** Runs of other sources that a line across would cross, each source once. */
  crossed(source: string, level: number, a: number, b: number): number {
    const from = Math.min(a, b) + 0.5,
      to = Math.max(a, b) - 0.5
    const met: string[] = []
    for (let strip = Math.floor(from / STRIP); strip <= Math.floor(to / STRIP); strip += 1)
      for (const run of this.strips.get(strip) ?? [])
        if (
          run.source !== source &&
          run.at > from &&
          run.at < to &&
          run.from < level &&
          run.to > level &&
          !met.includes(run.source)
        )
          met.push(run.source)
    return met.length
  }

  /** Runs of other owners that lie in a band across, along a stretch. */
  within(owner: string, [low, high]: readonly [number, number], [a, b]: readonly [number, number]): number {
    let count = 0
    for (let strip = Math.floor(low / STRIP); strip <= Math.floor(high / STRIP); strip += 1)
      for (const run of this.strips.get(strip) ?? [])
        if (run.owner !== owner && run.at > low && run.at < high && run.from < b && run.to > a) count += 1
    return count
  }

  /** Where a source has runs already, along a stretch. */
  of(source: string, a: number, b: number): number[] {
    const found = new Set<number>()
    for (const run of this.bySource.get(source) ?? []) {
      if (run.from < b && run.to > a) found.add(run.at)
      if (found.size >= MOST_OWN) break
    }
    return [...found]
  }
}
