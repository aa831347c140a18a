/** Third stage: a cable that closes a loop without a delay is held back by one sample, by a unit delay of our own. */
import { partOf } from '../catalogue.ts'
import type { Draft, Link, Source } from './draft.ts'

/** The unit delay of a signal; one for all cables from it that are cut. Index of what comes out of it. */
const heldBack = (draft: Draft, { catalogue }: Source, { from, term }: Link): number => {
  const source = draft.signals[term.source]!
  const id = `~${source.key}`
  const known = draft.outputs.get(`${id}.out`)
  if (known !== undefined) return known
  const { slots, description } = partOf(catalogue, 'unitdelay'),
    { type } = description
  const out = draft.addSignal(`${id}.out`, source, 'output')
  draft.signals[out]!.wanted = true
  const module =
    draft.modules.push({
      id,
      type,
      voices: source.voices,
      sides: source.sides,
      fedVoices: source.voices,
      seed: 0,
      auxBytes: 0,
      settings: [],
      inputs: [[slots.inputs.get('in')!, term.source]],
      outputs: [[slots.outputs.get('out')!, out]],
    }) - 1
  draft.addStages(id, module, type, description.stages!)
  draft.outputs.set(`${id}.out`, out)
  const [read, write] = draft.nodesOf.get(id)!
  draft.writers.set(out, read!.node)
  draft.fixed[from]!.push(write!.node)
  draft.delayed.push([write!.node, read!.node])
  return out
}

export const cut = (draft: Draft, source: Source, cable: Link): void => {
  const out = heldBack(draft, source, cable)
  draft.fixed[draft.writers.get(out)!]!.push(cable.to)
  const node = draft.nodes[cable.to]!
  if (node.op.kind === 'adapter') {
    cable.term.source = out
    return
  }
  // A direct connection: the module reads the unit delay instead.
  const module = draft.modules[node.module]!,
    cutSlot = source.catalogue.get(module.type)!.slots.inputs.get(cable.input)
  draft.modules[node.module] = {
    ...module,
    inputs: module.inputs.map(([slot, signal]) => [slot, slot === cutSlot ? out : signal]),
  }
}
