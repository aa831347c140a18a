/** First stage: signals of all outputs and the nodes that write them, so that cables can point anywhere. */
import type { Stage } from '../describe/types.ts'
import type { PatchModule } from '../patch/types.ts'
import type { Draft, Source } from './draft.ts'
import { outputShape } from './shapes.ts'

const WHOLE: readonly Stage[] = [{ name: 'process' }]

const placeOutputs = (draft: Draft, { catalogue, shapes }: Source, module: PatchModule): void => {
  const { description } = catalogue.get(module.type)!
  const shape = shapes.get(module.id)!
  for (const port of description.outputs) {
    const key = `${module.id}.${port.name}`
    draft.outputs.set(key, draft.addSignal(key, outputShape(shape, port), 'output'))
  }
  draft.addStages(module.id, draft.nodesOf.size, module.type, description.stages ?? WHOLE)
  const placed = draft.nodesOf.get(module.id)!
  for (const { node, stage } of placed) {
    // What is read before it is written joins into one loop, and does not order.
    if (stage.reportsDelay && placed.length > 1) draft.delayed.push([placed.at(-1)!.node, node])
    for (const port of description.outputs)
      if (!stage.writes || stage.writes.includes(port.name))
        draft.writers.set(draft.outputs.get(`${module.id}.${port.name}`)!, node)
  }
}

/** Signals of parameters that formulas read. */
const placeReadParams = (draft: Draft, { flat, shapes }: Source): void => {
  for (const feeds of flat.feeds.values())
    for (const { module, port } of feeds) {
      const key = `${module}.${port}`
      if (draft.outputs.has(key) || draft.readParams.has(key)) continue
      const signal = flat.feeds.has(key)
        ? draft.addSignal(`>${key}`, shapes.get(module)!, 'adapter')
        : draft.addSignal(`=${key}`, { voices: 1, sides: 1 }, 'set')
      draft.readParams.set(key, signal)
    }
}

export const place = (draft: Draft, source: Source): void => {
  for (const module of source.flat.modules) placeOutputs(draft, source, module)
  placeReadParams(draft, source)
}
