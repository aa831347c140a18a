/** Runs of cables beside one another: those of different sources keep apart. */
import { CORNER } from './routing.ts'

const LANE = 7
const STRIP = 2 * LANE
/** Places that are tried for a run. */
const TRIES = 60

interface Run {
  /** The cable or trunk it belongs to. */
  readonly owner: string
  readonly source: string
  readonly at: number
  from: number
  to: number
}

/** Keeps runs of different sources apart: the nearest free place to the wanted one, searching outwards. */
export class Lanes {
  /** By where they lie, so that only those near are looked at. */
  private readonly strips = new Map<number, Set<Run>>()
  private readonly owned = new Map<string, Run[]>()

  private isFree({ source, from, to }: Omit<Run, 'at'>, at: number): boolean {
    const strip = Math.floor(at / STRIP)
    for (let index = strip - 1; index <= strip + 1; index += 1)
      for (const run of this.strips.get(index) ?? [])
        if (run.source !== source && Math.abs(run.at - at) < LANE - 0.5 && run.from < to && run.to > from)
          return false
    return true
  }

  /** Where a run from `a` to `b` goes: at `wanted`, or beside it within `low` and `high`. */
  place({ owner, source, wanted, a, b, low, high }: Wanted): number {
    const run = { owner, source, from: Math.min(a, b) - CORNER, to: Math.max(a, b) + CORNER }
    let at = wanted
    for (let step = 0; step < TRIES; step += 1) {
      const beside = wanted + Math.ceil(step / 2) * LANE * (step % 2 ? 1 : -1)
      if (step > 0 && low < high && (beside < low || beside > high)) continue
      if (this.isFree(run, beside)) {
        at = beside
        break
      }
    }
    this.add({ ...run, at })
    return at
  }

  private add(run: Run): void {
    const strip = Math.floor(run.at / STRIP)
    const there = this.strips.get(strip)
    if (there) there.add(run)
    else this.strips.set(strip, new Set([run]))
    const own = this.owned.get(run.owner)
    if (own) own.push(run)
    else this.owned.set(run.owner, [run])
  }

  /** What an owner holds reaches further by now. */
  widen(owner: string, a: number, b: number): void {
    for (const run of this.owned.get(owner) ?? []) {
      run.from = Math.min(run.from, a - CORNER, b - CORNER)
      run.to = Math.max(run.to, a + CORNER, b + CORNER)
    }
  }

  /** What an owner holds is free again. */
  release(owner: string): void {
    for (const run of this.owned.get(owner) ?? []) this.strips.get(Math.floor(run.at / STRIP))?.delete(run)
    this.owned.delete(owner)
  }
}

/** A run that looks for its place. */
interface Wanted {
  readonly owner: string
  readonly source: string
  readonly wanted: number
  readonly a: number
  readonly b: number
  readonly low: number
  readonly high: number
}
