/** A node of the run order: a stage of a module, or an adapter. Edges point from what runs first. */
export interface OrderGraph {
  readonly count: number
  /** Must run before, within a sample. */
  readonly edges: readonly (readonly number[])[]
  /** Feeds back through a delay: belongs to the same loop, but does not order. */
  readonly delayed: readonly (readonly [from: number, to: number])[]
}

/** Tarjan's strongly connected components without recursion; component number of every node, sources first. */
export const components = (
  count: number,
  edges: readonly (readonly number[])[],
): { of: Int32Array; members: number[][] } => {
  const index = new Int32Array(count).fill(-1),
    low = new Int32Array(count),
    onStack = new Uint8Array(count),
    of = new Int32Array(count).fill(-1)
  const stack: number[] = [],
    members: number[][] = []
  let next = 0
  for (let root = 0; root < count; root += 1) {
    if (index[root] !== -1) continue
    const work: [node: number, edge: number][] = [[root, 0]]
    while (work.length > 0) {
      const top = work[work.length - 1]!
      const [node, edge] = top
      if (edge === 0) {
        index[node] = low[node] = next
        next += 1
        stack.push(node)
        onStack[node] = 1
      }
      const target = edges[node]![edge]
      if (target !== undefined) {
        top[1] += 1
        if (index[target] === -1) work.push([target, 0])
        else if (onStack[target]) low[node] = Math.min(low[node]!, index[target]!)
        continue
      }
      work.pop()
      const parent = work[work.length - 1]
      if (parent) low[parent[0]] = Math.min(low[parent[0]]!, low[node]!)
      if (low[node] !== index[node]) continue
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
  }
  // Tarjan finds sinks first.
  members.reverse()
  for (let i = 0; i < count; i += 1) of[i] = members.length - 1 - of[i]!
  return { of, members }
}

/** Is `goal` reachable from `start` along `edges`, inside `allowed`? */
const reaches = (
  start: number,
  goal: number,
  edges: readonly (readonly number[])[],
  allowed: (node: number) => boolean,
): boolean => {
  const seen = new Set([start])
  const waiting = [start]
  while (waiting.length > 0) {
    const node = waiting.pop()!
    if (node === goal) return true
    for (const target of edges[node]!) {
      if (seen.has(target) || !allowed(target)) continue
      seen.add(target)
      waiting.push(target)
    }
  }
  return false
}

export interface CableEdge {
  readonly from: number
  readonly to: number
  readonly order: number
}

/**
 * The cables that must be held back by one sample so that the rest can be ordered: taken in file order, each that would
 * close a loop without any delay. `fixed` are the edges that are no cables.
 */
export const closingCables = <T extends CableEdge>(
  count: number,
  fixed: readonly (readonly number[])[],
  cables: readonly T[],
): T[] => {
  const all = fixed.map((list) => [...list])
  for (const { from, to } of cables) all[from]!.push(to)
  const { of, members } = components(count, all)
  const sizes = members.map((list) => list.length)
  const edges = fixed.map((list) => [...list])
  const closing: T[] = []
  for (const cable of [...cables].sort((a, b) => a.order - b.order)) {
    const component = of[cable.from]!
    const inside = component === of[cable.to] && sizes[component]! > 1
    const closes =
      cable.from === cable.to ||
      (inside && reaches(cable.to, cable.from, edges, (node) => of[node] === component))
    if (closes) closing.push(cable)
    else edges[cable.from]!.push(cable.to)
  }
  return closing
}

/** Topological order of some nodes; among equals the smaller number first. Throws on a circle: callers have cut them. */
export const topological = (nodes: readonly number[], edges: readonly (readonly number[])[]): number[] => {
  const inside = new Set(nodes)
  const missing = new Map(nodes.map((node) => [node, 0]))
  for (const node of nodes)
    for (const target of edges[node]!) if (inside.has(target)) missing.set(target, missing.get(target)! + 1)
  const ready = new MinHeap()
  for (const node of nodes) if (missing.get(node) === 0) ready.push(node)
  const order: number[] = []
  while (ready.size > 0) {
    const node = ready.pop()
    order.push(node)
    for (const target of edges[node]!) {
      if (!inside.has(target)) continue
      const left = missing.get(target)! - 1
      missing.set(target, left)
      if (left === 0) ready.push(target)
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
