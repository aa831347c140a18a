import type { Catalogue } from '../catalogue.ts'
import type { ShapeContext } from '../describe/types.ts'
import type { PatchModule } from '../patch/types.ts'
import type { FlatPatch } from './flatten.ts'

export interface Shape { readonly voices: number; readonly sides: number }

export const MOST_VOICES = 16

/** Values of a module's parameters with defaults filled in, for shape and memory rules. */
export const contextOf = (module: PatchModule, catalogue: Catalogue, sampleRate: number): ShapeContext => {
  const entry = catalogue.get(module.type)!
  const value = (name: string): unknown => module.params?.[name] ?? entry.params.get(name)?.default
  return { sampleRate, number: (name) => Number(value(name)), choice: (name) => String(value(name)) }
}

/** Shape of one output: the module's own, unless the port says otherwise. */
export const outputShape = (shape: Shape, port: { readonly voices?: 1; readonly sides?: 2 } | undefined): Shape =>
  ({ voices: port?.voices ?? shape.voices, sides: port?.sides ?? shape.sides })

/**
 * Infers every module's shape: the largest voice count and the widest side among what comes in, unless its description
 * rules otherwise. Shapes only ever grow, so going round until nothing changes ends, loops included.
 */
export const inferShapes = (flat: FlatPatch, catalogue: Catalogue, sampleRate: number): Map<string, Shape> => {
  const rules = new Map(flat.modules.map((module) => [module.id, catalogue.get(module.type)!]))
  const incoming = new Map<string, { module: string; port: string }[]>(flat.modules.map((module) => [module.id, []]))
  const readers = new Map<string, Set<string>>()
  for (const [target, feeds] of flat.feeds) {
    const id = target.slice(0, target.indexOf('.'))
    for (const { module, port } of feeds) {
      incoming.get(id)!.push({ module, port })
      readers.set(module, (readers.get(module) ?? new Set()).add(id))
    }
  }
  const shapes = new Map<string, Shape>()
  for (const module of flat.modules) {
    const rule = rules.get(module.id)!.description.shape
    const voices = rule?.voices ? Math.min(MOST_VOICES, Math.max(1, rule.voices(contextOf(module, catalogue, sampleRate)))) : 1
    shapes.set(module.id, { voices, sides: rule?.sides ?? 1 })
  }
  const waiting = flat.modules.map((module) => module.id)
  const queued = new Set(waiting)
  while (waiting.length > 0) {
    const id = waiting.pop()!
    queued.delete(id)
    const rule = rules.get(id)!.description.shape
    const now = shapes.get(id)!
    let { voices, sides } = now
    for (const { module, port } of incoming.get(id)!) {
      const source = outputShape(shapes.get(module)!, rules.get(module)!.outputs.get(port))
      if (!rule?.voices && !rule?.sumsVoices) voices = Math.max(voices, source.voices)
      if (!rule?.sides) sides = Math.max(sides, source.sides)
    }
    if (voices === now.voices && sides === now.sides) continue
    shapes.set(id, { voices, sides })
    for (const reader of readers.get(id) ?? []) {
      if (queued.has(reader)) continue
      queued.add(reader)
      waiting.push(reader)
    }
  }
  return shapes
}

/** Shape of every output of a patch, for pictures: `osc.saw` → voices and sides. */
export const outputShapes = (flat: FlatPatch, catalogue: Catalogue): Map<string, Shape> => {
  const shapes = inferShapes(flat, catalogue, 48000)
  return new Map(flat.modules.flatMap((module) => catalogue.get(module.type)!.description.outputs.map((port): [string, Shape] => [`${module.id}.${port.name}`, outputShape(shapes.get(module.id)!, port)])))
}
