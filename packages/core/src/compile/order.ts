/** Last stage: loops are found, closed ones cut, and everything is put in the order it runs in. */
import { closingCables, components, topological } from '../patch/graph.ts'
import { cut } from './cut.ts'
import type { Draft, Node, Source } from './draft.ts'
import type { LoopReport, PlanModule, PlanOp } from './plan.ts'

const feedsItself = ({ catalogue, flat }: Source, { id, type }: PlanModule): boolean =>
  [...catalogue.get(type)!.slots.inputs.keys()].some((input) =>
    flat.feeds.get(`${id}.${input}`)?.some((feed) => feed.module === id),
  )

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

export const order = (
  draft: Draft,
  source: Source,
): { readonly ops: readonly PlanOp[]; readonly loops: readonly LoopReport[] } => {
  // Set values are written before anything runs: nothing to wait for.
  for (const link of draft.links) link.from = draft.writers.get(link.term.source) ?? -1
  const cables = draft.links.filter(({ from }) => from >= 0)
  const closing = closingCables(draft.nodes.length, draft.fixed, cables),
    closed = new Set(closing)
  const closingAt = new Map<number, string[]>()
  for (const cable of closing) {
    cut(draft, source, cable)
    closingAt.set(cable.to, [...(closingAt.get(cable.to) ?? []), cable.name])
  }
  // The draft is done with: its edges become those of the whole graph.
  const edges = draft.fixed
  for (const cable of cables) if (!closed.has(cable)) edges[cable.from]!.push(cable.to)
  const joined = draft.delayed.length === 0 ? edges : edges.map((list) => [...list])
  for (const [from, to] of draft.delayed) joined[from]!.push(to)
  const ops: PlanOp[] = [],
    loops: LoopReport[] = [],
    looping = new Set<number>()
  // Components come sources first; among independent ones the file's order keeps the plan stable.
  for (const group of components(draft.nodes.length, joined).members) {
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
  for (const [signal, node] of draft.writers) if (looping.has(node)) draft.signals[signal]!.inLoop = true
  return { ops, loops }
}
