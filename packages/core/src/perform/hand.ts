/** Moves of a hand as undo steps: one for each stretch of moving, told when the hand has rested. */
import type { Moves } from '../patch/document.ts'

/** A hand that has not moved for this long has put down what it held. */
export const REST_MS = 1000

/** A clock that can be waited for; `cancel` takes what `wait` gave. */
export interface RestClock {
  wait(milliseconds: number, then: () => void): unknown
  cancel(waiting: unknown): void
}

export class HandMoves {
  private before: Moves | undefined
  private name = ''
  private waiting: unknown

  constructor(
    private readonly moves: () => Moves,
    /** Called with what was moved before the stretch, and after it. */
    private readonly record: (name: string, before: Moves, after: Moves) => void,
    private readonly clock: RestClock,
  ) {}

  /**
   * Around what a hand does. It may move nothing at once: words come a little later, and what moves nothing at all is no
   * step in the end. Several names in one stretch are told by the last that moved something.
   */
  moving(name: string, move: () => void): void {
    const start = this.moves()
    move()
    const moved = !isSame(start, this.moves())
    if (this.before === undefined) {
      this.before = start
      this.name = name
    } else if (!moved) return
    if (moved) this.name = name
    this.clock.cancel(this.waiting)
    this.waiting = this.clock.wait(REST_MS, () => {
      this.rest()
    })
  }

  /** The hand rests: now, not when the time is up. */
  rest(): void {
    const { before, name } = this
    if (before === undefined) return
    this.clock.cancel(this.waiting)
    this.before = undefined
    const after = this.moves()
    if (!isSame(before, after)) this.record(name, before, after)
  }

  /** Another document: what was moved in the old one is no step of this. */
  drop(): void {
    this.clock.cancel(this.waiting)
    this.before = undefined
  }
}

const sameRecord = (a: Readonly<Record<string, unknown>>, b: Readonly<Record<string, unknown>>): boolean => {
  const [left, right] = [new Map(Object.entries(a)), new Map(Object.entries(b))]
  return left.size === right.size && [...left].every(([name, value]) => right.get(name) === value)
}
const isSame = (a: Moves, b: Moves): boolean =>
  sameRecord(a.values, b.values) && sameRecord(a.data, b.data) && sameRecord(a.bypass, b.bypass)
