/**
 * Where cards stand in their columns: in the order in which fewest cables cross, and so high that those that count most run
 * straight. Barycentres for the order (Sugiyama et al. 1981), isotonic regression for the heights: the nearest heights to
 * the wanted ones that keep order and distance, exactly (Best, Chakravarti 1990).
 */
import { GAP } from './lines.ts'
import type { Sketch, SketchLink } from './sketch.ts'

const SWEEPS = 24,
  LAST_SWEEPS = 4
/** What a crossing costs, and a link's step up or down by 100 pixels of weight 1. */
const CROSS_COST = 3,
  STEP_COST = 0.4
/**
 * Above so many pairs of links neighbours do not trade places, and above so many crossings are not counted: columns and
 * steps say enough.
 */
const MOST_TRADED = 6000,
  MOST_COUNTED = 60_000
/** Sweeps over more nodes than `MANY`. */
const FEW_SWEEPS = 4,
  MANY = 400

export interface Stacks {
  /** Nodes of each column from left to right; changed in place to their order from top to bottom. */
  readonly columns: number[][]
  /** Room of each from top to bottom. */
  readonly rooms: readonly number[]
}

/** Nearest ascending values to the wanted ones, with weights: pool adjacent violators. */
export const isotonic = (wanted: readonly number[], weights: readonly number[]): number[] => {
  const blocks: { sum: number; weight: number; count: number }[] = []
  wanted.forEach((value, index) => {
    let block = { sum: value * weights[index]!, weight: weights[index]!, count: 1 }
    for (;;) {
      const last = blocks.at(-1)
      if (!last || last.sum / last.weight <= block.sum / block.weight) break
      blocks.pop()
      block = {
        sum: last.sum + block.sum,
        weight: last.weight + block.weight,
        count: last.count + block.count,
      }
    }
    blocks.push(block)
  })
  return blocks.flatMap(({ sum, weight, count }) => new Array<number>(count).fill(sum / weight))
}

export class Heights {
  readonly y: number[]
  private readonly links: readonly SketchLink[]
  private readonly of: readonly SketchLink[][]
  private readonly column: number[]

  constructor(
    private readonly sketch: Sketch,
    private readonly stacks: Stacks,
    order: readonly number[],
  ) {
    this.y = sketch.nodes.map(() => 0)
    this.column = sketch.nodes.map(() => -1)
    stacks.columns.forEach((nodes, at) => {
      nodes.sort((a, b) => order[a]! - order[b]! || a - b)
      let y = 0
      for (const node of nodes) {
        this.column[node] = at
        this.y[node] = y
        y += sketch.nodes[node]!.height + GAP
      }
    })
    // Links that go on in another line say nothing about heights in this one.
    this.links = sketch.links.filter(({ from, to }) => this.column[from]! >= 0 && this.column[to]! >= 0)
    this.of = sketch.nodes.map(() => [])
    for (const link of this.links) {
      this.of[link.from]!.push(link)
      this.of[link.to]!.push(link)
    }
  }

  /** Height at which a node's links run straight, with how much that counts; undefined where it has none. */
  private wanted(
    node: number,
    sides: -1 | 0 | 1,
  ): { readonly at: number; readonly weight: number } | undefined {
    let sum = 0,
      total = 0
    for (const { from, to, fromY, toY, weight } of this.of[node]!) {
      const isFrom = from === node,
        other = isFrom ? to : from
      const step = this.column[other]! - this.column[node]!
      if (step === 0 || (sides !== 0 && step * sides < 0)) continue
      const w = weight / Math.abs(step)
      sum += w * (this.y[other]! + (isFrom ? toY - fromY : fromY - toY))
      total += w
    }
    return total > 0 ? { at: sum / total, weight: total } : undefined
  }

  /** Puts the nodes of a column, in their order, as near to where they want to stand as they can. */
  private settle(nodes: readonly number[], sides: -1 | 0 | 1): void {
    const wanted: number[] = [],
      weights: number[] = []
    let stack = 0
    for (const node of nodes) {
      const want = this.wanted(node, sides)
      wanted.push((want?.at ?? this.y[node]!) - stack)
      weights.push(want?.weight ?? 0.2)
      stack += this.sketch.nodes[node]!.height + GAP
    }
    const room = nodes.length > 0 ? this.stacks.rooms[this.column[nodes[0]!]!]! : 0,
      slack = Math.max(0, room - (stack - GAP))
    const settled = isotonic(wanted, weights)
    let above = 0
    nodes.forEach((node, index) => {
      this.y[node] = Math.min(slack, Math.max(0, settled[index]!)) + above
      above += this.sketch.nodes[node]!.height + GAP
    })
  }

  private arrange(nodes: number[], sides: -1 | 0 | 1): void {
    const middle = new Map(
      nodes.map((node, index) => {
        const at = this.wanted(node, sides)?.at ?? this.y[node]!
        return [node, { at: at + this.sketch.nodes[node]!.height / 2, index }]
      }),
    )
    nodes.sort((a, b) => {
      const p = middle.get(a)!,
        q = middle.get(b)!
      return p.at - q.at || p.index - q.index
    })
    this.settle(nodes, sides)
  }

  /** Ends of a link from left to right. */
  private ends({ from, to, fromY, toY }: SketchLink): readonly [number, number, number, number] {
    const a = this.column[from]!,
      b = this.column[to]!
    const ya = this.y[from]! + fromY,
      yb = this.y[to]! + toY
    return a <= b ? [a, ya, b, yb] : [b, yb, a, ya]
  }

  private get pairs(): number {
    return (this.links.length * this.links.length) / 2
  }

  /** Crossings of links drawn as straight lines between columns, and steps up and down. */
  cost(): number {
    const ends = this.links.map((link) => this.ends(link)),
      isCounted = this.pairs < MOST_COUNTED
    let crossings = 0,
      steps = 0
    ends.forEach(([a, ya, b, yb], i) => {
      steps += (this.links[i]!.weight * Math.abs(yb - ya)) / 100
      for (let j = 0; j < i && isCounted; j += 1) {
        const [c, yc, d, yd] = ends[j]!
        const left = Math.max(a, c),
          right = Math.min(b, d)
        if (left >= right || (this.links[i]!.from === this.links[j]!.from && ya === yc)) continue
        const at = (x: number, p: number, yp: number, q: number, yq: number): number =>
          yp + ((yq - yp) * (x - p)) / (q - p)
        const first = at(left, a, ya, b, yb) - at(left, c, yc, d, yd),
          last = at(right, a, ya, b, yb) - at(right, c, yc, d, yd)
        if (first * last < 0) crossings += 1
      }
    })
    return CROSS_COST * crossings + STEP_COST * steps
  }

  private snapshot(): { readonly orders: number[][]; readonly y: number[]; readonly cost: number } {
    return { orders: this.stacks.columns.map((nodes) => [...nodes]), y: [...this.y], cost: this.cost() }
  }
  private restore({ orders, y }: { readonly orders: number[][]; readonly y: number[] }): void {
    orders.forEach((nodes, at) => this.stacks.columns[at]!.splice(0, Infinity, ...nodes))
    y.forEach((value, node) => (this.y[node] = value))
  }

  /** Trades places of neighbours wherever that costs less. */
  private trade(): boolean {
    const first = this.cost()
    let least = first
    for (const nodes of this.stacks.columns)
      for (let at = 0; at + 1 < nodes.length; at += 1) {
        const [a, b] = [nodes[at]!, nodes[at + 1]!],
          before = nodes.map((node) => this.y[node]!)
        nodes[at] = b
        nodes[at + 1] = a
        this.settle(nodes, 0)
        const cost = this.cost()
        if (cost < least - 1e-9) {
          least = cost
          continue
        }
        nodes[at] = a
        nodes[at + 1] = b
        nodes.forEach((node, index) => (this.y[node] = before[index]!))
      }
    return least < first
  }

  /** `trades`: rounds of trading places of neighbours. */
  run(trades: number): number {
    const { columns } = this.stacks
    let best = this.snapshot()
    const keep = (): void => {
      const now = this.snapshot()
      if (now.cost < best.cost - 1e-9) best = now
    }
    const sweeps = this.sketch.nodes.length > MANY ? FEW_SWEEPS : SWEEPS
    for (let sweep = 0; sweep < sweeps; sweep += 1) {
      const isRight = sweep % 2 === 0,
        sides = sweep < sweeps / 2 ? (isRight ? -1 : 1) : 0
      for (const nodes of isRight ? columns : [...columns].reverse()) this.arrange(nodes, sides)
      keep()
      for (const nodes of isRight ? [...columns].reverse() : columns) this.settle(nodes, 0)
      keep()
    }
    this.restore(best)
    if (this.pairs < MOST_TRADED) for (let round = 0; round < trades && this.trade(); round += 1);
    for (let round = 0; round < LAST_SWEEPS; round += 1) {
      keep()
      for (const nodes of round % 2 ? columns : [...columns].reverse()) this.settle(nodes, 0)
    }
    keep()
    this.restore(best)
    return best.cost
  }
}
