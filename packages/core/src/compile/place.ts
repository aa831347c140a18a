/** First stage: signals of all outputs and the nodes that write them, so that cables can point anywhere. */
import type { Stage } from '../describe/types.ts'
import type { PatchModule } from '../patch/types.ts'
import type { Draft, Source } from './draft.ts'
import { factsOf } from './facts.ts'
import { outputShape } from './shapes.ts'

const WHOLE: readonly Stage[] = [{ name: 'process' }]

const placeOutputs = (draft: Draft, { catalogue, sampleRate, shapes }: Source, module: PatchModule): void => {
  const { entry, outputs } = factsOf(module, catalogue, sampleRate)
  const { description } = entry
  const shape = shapes.get(module.id)!
  for (const { key, port } of outputs)
    draft.outputs.set(key, draft.addSignal(key, outputShape(shape, port), 'output'))
  draft.addStages(module.id, draft.nodesOf.size, module.type, description.stages ?? WHOLE)
  const placed = draft.nodesOf.get(module.id)!
  for (const { node, stage } of placed) {
    // What is read before it is written joins into one loop, and does not order.
    if (stage.reportsDelay && placed.length > 1) draft.delayed.push([placed.at(-1)!.node, node])
    for (const { key, port } of outputs)
      if (!stage.writes || stage.writes.includes(port.name)) draft.writers.set(draft.outputs.get(key)!, node)
  }
}

/** Signals of parameters that formulas read. */
const placeReadParams = (draft: Draft, { flat, shapes }: Source): void => {
  for (const feeds of flat.feeds.values())
    for (const { from, module } of feeds) {
      if (draft.outputs.has(from) || draft.readParams.has(from)) continue
      const signal = flat.feeds.has(from)
        ? draft.addSignal(`>${from}`, shapes.get(module)!, 'adapter')
        : draft.addSignal(`=${from}`, { voices: 1, sides: 1 }, 'set')
      draft.readParams.set(from, signal)
    }
}

export const place = (draft: Draft, source: Source): void => {
  for (const module of source.flat.modules) placeOutputs(draft, source, module)
  placeReadParams(draft, source)
}
