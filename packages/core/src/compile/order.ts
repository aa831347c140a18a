/** Last stage: loops are found, closed ones cut, and everything is put in the order it runs in. */
import { closingCables, type Components, components, topological, withCables } from '../patch/graph.ts'
import { Cutting } from './cut.ts'
import type { Draft, Link, Node } from './draft.ts'
import type { LoopReport, PlanModule, PlanOp } from './plan.ts'
import type { Source } from './source.ts'

const feedsItself = ({ flat }: Source, { id }: PlanModule): boolean =>
  flat.fed.get(id)?.some(({ feeds }) => feeds.some((feed) => feed.module === id)) === true

/** A loop as one op: what reports its delays, then its body. */
const loopOp = (body: readonly Node[]): PlanOp => ({
  kind: 'loop',
  probes: body
    .filter(({ stage }) => stage?.reportsDelay)
    .map(({ module, stage, type }) => ({ module, call: `${type}.${stage!.name}Least` })),
  body: body.map(({ op }) => op),
})

/** What a user is told of a loop; undefined where a delay's two stages alone make it one. */
const reportOf = (
  draft: Draft,
  source: Source,
  body: readonly Node[],
  cutHere: readonly string[],
): LoopReport | undefined => {
  const { catalogue, flat } = source
  const modules = [
    ...new Set(body.filter(({ module }) => module >= 0).map(({ module }) => draft.modules[module]!)),
  ]
  const real = modules.filter(({ type }) => catalogue.get(type)!.description.part !== 'unitdelay')
  if (real.length <= 1 && modules.length <= real.length && !feedsItself(source, real[0]!)) return undefined
  const held = modules.flatMap((module) => flat.held.get(module.id) ?? [])
  return {
    modules: [...new Set([...real.map(({ id }) => id), ...held.flatMap((item) => item.modules)])],
    delays: real
      .filter(({ type }) => catalogue.get(type)!.description.stages?.some((stage) => stage.reportsDelay))
      .map(({ id }) => id),
    cut: [...cutHere, ...held.map((item) => item.name)],
  }
}

type Edges = readonly (readonly number[])[]

/** The graph of all nodes, without the cables that would close a circle: those are held back. */
const cutCircles = (
  draft: Draft,
  source: Source,
  cables: readonly Link[],
): {
  readonly edges: Edges
  /** Its components, where nothing had to be cut. */
  readonly graph: Components | undefined
  readonly closingAt: ReadonlyMap<number, readonly string[]>
} => {
  const closingAt = new Map<number, string[]>()
  const edges = withCables(draft.fixed, cables),
    graph = components(draft.nodes.length, edges)
  const closing = closingCables(draft.fixed, cables, graph)
  if (closing.length === 0) return { edges, graph, closingAt }
  const cutting = new Cutting(draft, source.catalogue),
    closed = new Set(closing)
  for (const cable of closing) {
    cutting.cut(cable)
    closingAt.set(cable.to, [...(closingAt.get(cable.to) ?? []), cable.name])
  }
  return {
    edges: withCables(
      draft.fixed,
      cables.filter((cable) => !closed.has(cable)),
    ),
    graph: undefined,
    closingAt,
  }
}

/** The same with what is joined by delays alone. */
const withDelays = ({ delayed }: Draft, edges: Edges): Edges =>
  delayed.length === 0
    ? edges
    : withCables(
        edges,
        delayed.map(([from, to]) => ({ from, to })),
      )

export const order = (
  draft: Draft,
  source: Source,
): {
  readonly ops: readonly PlanOp[]
  readonly loops: readonly LoopReport[]
  readonly inLoop: Uint8Array
} => {
  // Set values are written before anything runs: nothing to wait for.
  for (const link of draft.links) link.from = draft.writers[link.term.source]!
  const cables = draft.links.filter(({ from }) => from >= 0)
  const { edges, graph, closingAt } = cutCircles(draft, source, cables)
  const { members } =
    draft.delayed.length === 0 && graph ? graph : components(draft.nodes.length, withDelays(draft, edges))
  const ops: PlanOp[] = [],
    loops: LoopReport[] = [],
    looping = new Set<number>()
  // Components come sources first; among independent ones the file's order keeps the plan stable.
  for (const group of members) {
    if (group.length === 1) {
      ops.push(draft.nodes[group[0]!]!.op)
      continue
    }
    const nodes = topological(group, edges),
      body = nodes.map((node) => draft.nodes[node]!)
    for (const node of nodes) looping.add(node)
    ops.push(loopOp(body))
    const report = reportOf(
      draft,
      source,
      body,
      nodes.flatMap((node) => closingAt.get(node) ?? []),
    )
    if (report) loops.push(report)
  }
  // Signals written inside a loop are written frame by frame.
  const inLoop = new Uint8Array(draft.writers.length)
  if (looping.size > 0)
    draft.writers.forEach((node, signal) => {
      if (looping.has(node)) inLoop[signal] = 1
    })
  return { ops, loops, inLoop }
}
