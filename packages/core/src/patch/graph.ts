/** Graphs of numbered nodes: circles and orders, each found in one visit of every edge. */

export interface Components {
  /** Component of every node. */
  readonly of: Int32Array
  readonly members: readonly (readonly number[])[]
}

/** Tarjan's strongly connected components without recursion; component number of every node, sources first. */
export const components = (count: number, edges: readonly (readonly number[])[]): Components => {
  const index = new Int32Array(count).fill(-1),
    low = new Int32Array(count),
    onStack = new Uint8Array(count),
    of = new Int32Array(count).fill(-1)
  const stack: number[] = [],
    members: number[][] = []
  // Nodes on the way down, and how many of its edges each has gone.
  const way: number[] = [],
    gone = new Int32Array(count)
  let next = 0
  const enter = (node: number): void => {
    index[node] = low[node] = next
    next += 1
    stack.push(node)
    onStack[node] = 1
    way.push(node)
  }
  const close = (node: number): void => {
    const group: number[] = []
    let member: number
    do {
      member = stack.pop()!
      onStack[member] = 0
      of[member] = members.length
      group.push(member)
    } while (member !== node)
    members.push(group)
  }
  for (let root = 0; root < count; root += 1) {
    if (index[root] !== -1) continue
    enter(root)
    while (way.length > 0) {
      const node = way[way.length - 1]!
      const target = edges[node]![gone[node]!]
      if (target !== undefined) {
        gone[node]! += 1
        if (index[target] === -1) enter(target)
        else if (onStack[target]) low[node] = Math.min(low[node]!, index[target]!)
        continue
      }
      way.pop()
      const parent = way[way.length - 1]
      if (parent !== undefined) low[parent] = Math.min(low[parent]!, low[node]!)
      if (low[node] === index[node]) close(node)
    }
  }
  // Tarjan finds sinks first.
  members.reverse()
  for (let i = 0; i < count; i += 1) of[i] = members.length - 1 - of[i]!
  return { of, members }
}

/**
 * A graph without circles that grows by an edge at a time. The nodes stay numbered in an order in which every edge goes
 * up, so an edge is looked at only as far as the order says it may matter (Pearce & Kelly 2006, "A dynamic topological
 * sort algorithm for directed acyclic graphs").
 */
class GrowingOrder {
  private readonly after: number[][]
  private readonly before: number[][]
  /** Place of every node in the order. */
  private readonly place: Int32Array

  /** `edges` must be free of circles. */
  constructor(edges: readonly (readonly number[])[]) {
    this.after = edges.map((list) => [...list])
    this.before = edges.map(() => [])
    edges.forEach((list, from) => {
      for (const to of list) this.before[to]!.push(from)
    })
    this.place = new Int32Array(edges.length)
    topological([...edges.keys()], edges).forEach((node, at) => {
      this.place[node] = at
    })
  }

  /** Adds an edge; false, and nothing changes, when it would close a circle. */
  add(from: number, to: number): boolean {
    if (from === to) return false
    const { place } = this
    if (place[from]! > place[to]!) {
      const forth = this.reached(to, this.after, (node) => place[node]! <= place[from]!)
      if (forth.includes(from)) return false
      const back = this.reached(from, this.before, (node) => place[node]! >= place[to]!)
      this.move([...this.sorted(back), ...this.sorted(forth)])
    }
    this.after[from]!.push(to)
    this.before[to]!.push(from)
    return true
  }

  private reached(start: number, edges: readonly number[][], near: (node: number) => boolean): number[] {
    const seen = new Set([start])
    for (const node of seen) for (const next of edges[node]!) if (near(next)) seen.add(next)
    return [...seen]
  }

  private sorted(nodes: readonly number[]): number[] {
    return [...nodes].sort((a, b) => this.place[a]! - this.place[b]!)
  }

  /** Gives nodes, in this order, the places they have among themselves. */
  private move(nodes: readonly number[]): void {
    const places = nodes.map((node) => this.place[node]!).sort((a, b) => a - b)
    nodes.forEach((node, at) => {
      this.place[node] = places[at]!
    })
  }
}

export interface CableEdge {
  readonly from: number
  readonly to: number
  readonly order: number
}

/** A graph with edges more. */
export const withCables = (
  edges: readonly (readonly number[])[],
  cables: readonly Pick<CableEdge, 'from' | 'to'>[],
): number[][] => {
  const all = edges.map((list) => list.slice())
  for (const { from, to } of cables) all[from]!.push(to)
  return all
}

/**
 * The cables that must be held back by one sample so that the rest can be ordered: taken in file order, each that would
 * close a loop without any delay. `fixed` are the edges that are no cables; `whole` the components of both together.
 */
export const closingCables = <T extends CableEdge>(
  fixed: readonly (readonly number[])[],
  cables: readonly T[],
  { of, members }: Components = components(fixed.length, withCables(fixed, cables)),
): T[] => {
  // Only what stays inside a component can close a circle.
  const inside = cables.filter(
    ({ from, to }) => of[from] === of[to] && (from === to || members[of[from]!]!.length > 1),
  )
  if (inside.length === 0) return inside
  const order = new GrowingOrder(fixed)
  return inside.sort((a, b) => a.order - b.order).filter(({ from, to }) => !order.add(from, to))
}

/** Topological order of some nodes; among equals the smaller number first. Throws on a circle: callers have cut them. */
export const topological = (nodes: readonly number[], edges: readonly (readonly number[])[]): number[] => {
  // Edges still to come into each node, -1 for nodes that are not meant.
  const missing = new Int32Array(edges.length).fill(-1)
  for (const node of nodes) missing[node] = 0
  for (const node of nodes)
    for (const target of edges[node]!) if (missing[target]! >= 0) missing[target]! += 1
  const ready = new MinHeap()
  for (const node of nodes) if (missing[node] === 0) ready.push(node)
  const order: number[] = []
  while (ready.size > 0) {
    const node = ready.pop()
    order.push(node)
    for (const target of edges[node]!) {
      if (missing[target]! < 0) continue
      missing[target]! -= 1
      if (missing[target] === 0) ready.push(target)
    }
  }
  if (order.length !== nodes.length)
    throw new Error(`A circle is left among ${nodes.length - order.length} nodes`)
  return order
}

/** Smallest number first. */
class MinHeap {
  private readonly items: number[] = []
  get size(): number {
    return this.items.length
  }
  push(value: number): void {
    const { items } = this
    let at = items.push(value) - 1
    while (at > 0) {
      const parent = (at - 1) >> 1
      if (items[parent]! <= value) break
      items[at] = items[parent]!
      at = parent
    }
    items[at] = value
  }
  pop(): number {
    const { items } = this
    const top = items[0]!
    const last = items.pop()!
    let at = 0
    while (items.length > 0) {
      let child = 2 * at + 1
      if (child >= items.length) break
      if (child + 1 < items.length && items[child + 1]! < items[child]!) child += 1
      if (items[child]! >= last) break
      items[at] = items[child]!
      at = child
    }
    if (items.length > 0) items[at] = last
    return top
  }
}
