/**
 * Columns of a patch and the lines they are broken into, like those of a text: so that the patch is as large as can be in
 * the window, what moves something stands in the column before it, and few cables go from the end of a line to the next.
 */
import type { Layers } from './layers.ts'
import { breaksOf, GAP, type Line, measured, type Room, sizeCost, type Sizes, stacked } from './lines.ts'
import { moversOf, type Sketch } from './sketch.ts'

/** Costs of a column that a link skips, and of one that leaves its line. */
const SKIP_COST = 0.5,
  CUT_COST = 2.5
/** Of a column's height in pixels, squared: of two that show a patch as large, the more even one is nearer to a better. */
const UNEVEN_COST = 3e-7
/** What moves something keeps near it. */
const MOVER_WEIGHT = 4
const MOST_PASSES = 6
/** A last line of so many columns may be stood up. */
const MOST_FOLDED = 3
/** A link that turns back costs as if it skipped so many columns more. */
const TURN_BACK = 6

export interface Columns {
  /** Column of every node in the whole chain, from 0. */
  readonly column: readonly number[]
  readonly lines: readonly Line[]
  readonly cost: number
}

/** With more cables than this the costs of each count less: a patch is to be seen, however many there are. */
const FEW_CABLES = 30
export const cableShare = ({ links }: Sketch): number => FEW_CABLES / Math.max(FEW_CABLES, links.length)

/** How columns are looked for. */
export interface ColumnEffort {
  /** Steps of counting and of breaking into lines. */
  readonly work: number
  /** What moves something may stand over or under it as well. */
  readonly isDense?: boolean
}

class Search {
  private readonly column: number[]
  private readonly before: number[][]
  private readonly after: number[][]
  private readonly isMover: readonly boolean[]
  private work = 0

  constructor(
    private readonly sketch: Sketch,
    { layer }: Layers,
    private readonly room: Room,
    /** Columns a line may have. */
    private readonly most: number,
    private readonly effort: ColumnEffort,
  ) {
    this.column = [...layer]
    this.isMover = moversOf(sketch)
    this.before = sketch.nodes.map(() => [])
    this.after = sketch.nodes.map(() => [])
    for (const { from, to } of sketch.links) {
      // Links that close a ring turn back, wherever columns are.
      if (layer[from]! >= layer[to]!) continue
      this.before[to]!.push(from)
      this.after[from]!.push(to)
    }
    this.late()
  }

  /** What moves something, and what nothing feeds, stands right before it. */
  private late(): void {
    const { column, isMover, before, after } = this
    const inOrder = [...column.keys()].sort((a, b) => column[b]! - column[a]!)
    for (const node of inOrder)
      if (after[node]!.length > 0 && (isMover[node] || before[node]!.length === 0))
        column[node] = Math.min(...after[node]!.map((next) => column[next]!)) - 1
  }

  private evaluate(): Columns {
    const { column, sketch, room } = this
    const used = [...new Set(column)].sort((a, b) => a - b),
      numbers = new Map(used.map((at, number) => [at, number])),
      dense = column.map((at) => numbers.get(at)!)
    const heights = used.map(() => -GAP),
      widths = used.map(() => 0),
      cuts = used.map(() => 0)
    sketch.nodes.forEach(({ height, width }, node) => {
      heights[dense[node]!]! += height + GAP
      widths[dense[node]!] = Math.max(widths[dense[node]!]!, width)
    })
    let skipped = 0
    for (const { from, to, weight } of sketch.links) {
      const a = Math.min(dense[from]!, dense[to]!),
        b = Math.max(dense[from]!, dense[to]!)
      const near = this.isMover[from] ? MOVER_WEIGHT : weight
      // As steps up and down; they are summed up below.
      if (a < b) cuts[a + 1]! += near
      if (a < b && b + 1 < cuts.length) cuts[b + 1]! -= near
      skipped += near * (dense[from]! < dense[to]! ? b - a - 1 : b - a + TURN_BACK)
    }
    for (let at = 1; at < cuts.length; at += 1) cuts[at]! += cuts[at - 1]!
    const sizes: Sizes = { heights, widths, cuts }
    const begins = breaksOf(sizes, this.most),
      [last = 0] = begins.slice(-1)
    this.work += used.length * this.most + sketch.nodes.length + 4 * sketch.links.length
    const share = cableShare(sketch)
    const uneven = UNEVEN_COST * heights.reduce((sum, height) => sum + height * height, 0)
    const costed = (breaks: readonly number[]): Columns => {
      const lines = stacked(breaks, sizes),
        { zoom, cut } = measured(lines, sizes, room)
      return {
        column: dense,
        lines,
        cost: sizeCost(zoom) + share * (SKIP_COST * skipped + CUT_COST * cut) + uneven,
      }
    }
    const whole = costed(begins)
    if (begins.length < 2 || used.length - last > MOST_FOLDED) return whole
    // The last of a chain may go down one under the other as well.
    const folded = costed([...begins, ...used.keys()].filter((at, n) => n < begins.length || at > last))
    return folded.cost < whole.cost ? folded : whole
  }

  /** Moves one node to the column that serves best. */
  private moveNode(node: number, now: Columns): Columns {
    const { column, before, after } = this
    const own = column[node]!
    const low = before[node]!.reduce((most, at) => Math.max(most, column[at]! + 1), 0),
      last = column.reduce((most, at) => Math.max(most, at), 0),
      // What moves something may stand over or under it where columns are dear.
      nearest = this.effort.isDense && this.isMover[node] ? 0 : 1,
      // What leads nowhere may open a new column.
      high = after[node]!.reduce((least, at) => Math.min(least, column[at]! - nearest), last + 1)
    let best = now,
      at = own
    for (let wanted = low; wanted <= high && this.work < this.effort.work; wanted += 1) {
      if (wanted === own) continue
      column[node] = wanted
      const next = this.evaluate()
      if (next.cost < best.cost - 1e-9) {
        best = next
        at = wanted
      }
    }
    column[node] = at
    return best
  }

  private pass(now: Columns): Columns {
    let best = now
    for (let node = 0; node < this.column.length && this.work < this.effort.work; node += 1)
      best = this.moveNode(node, best)
    return best
  }

  /** Tries an empty column at every place: what is crowded may spread into it. */
  private opened(now: Columns): Columns {
    let best = now
    for (let at = 1; at <= this.column.reduce((most, c) => Math.max(most, c), 0) + 1; at += 1) {
      if (this.work > this.effort.work) break
      const kept = [...this.column]
      this.column.forEach((column, node) => {
        if (column >= at) this.column[node] = column + 1
      })
      // An empty column in the middle costs nothing: columns are counted without it.
      const next = this.pass(best)
      if (next.cost < best.cost - 1e-9) best = next
      else kept.forEach((column, node) => (this.column[node] = column))
    }
    return best
  }

  run(): Columns {
    let best = this.evaluate()
    for (let passes = 0; passes < MOST_PASSES && this.work < this.effort.work; passes += 1) {
      const next = this.opened(this.pass(best))
      if (next.cost >= best.cost - 1e-9) break
      best = next
    }
    return best
  }
}

/** Columns in lines of at most so many. */
export const columnsOf = (
  sketch: Sketch,
  layers: Layers,
  room: Room,
  most: number,
  effort: ColumnEffort,
): Columns => new Search(sketch, layers, room, most, effort).run()
