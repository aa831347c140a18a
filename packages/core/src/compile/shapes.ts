import type { Catalogue, CatalogueEntry } from '../catalogue.ts'
import type { AssetSound, ShapeContext, TableContext } from '../describe/types.ts'
import type { PatchModule } from '../patch/types.ts'
import { components } from '../patch/graph.ts'
import type { FlatPatch } from './flatten.ts'
import { mostAt, type Settings } from './reach.ts'
import { readersOf } from './readers.ts'
import { own } from '../units/own.ts'

export interface Shape {
  readonly voices: number
  readonly sides: number
}

export const MOST_VOICES = 16

/** Values of a module's parameters with defaults filled in, for shape and memory rules. */
export const contextOf = (module: PatchModule, catalogue: Catalogue, sampleRate: number): ShapeContext => {
  const entry = catalogue.get(module.type)!
  const value = (name: string): unknown => own(module.params, name) ?? entry.params.get(name)?.default
  return { sampleRate, number: (name) => Number(value(name)), choice: (name) => String(value(name)) }
}

/** Bytes of further memory a module needs in a patch. */
export const memoryOf = (
  module: PatchModule,
  shape: Shape,
  flat: FlatPatch,
  settings: Settings,
  catalogue: Catalogue,
  sampleRate: number,
): number => {
  const { memory } = catalogue.get(module.type)!.description
  if (!memory) return 0
  const context = {
    ...contextOf(module, catalogue, sampleRate),
    most: (name: string) => mostAt(module, name, flat, settings, catalogue, sampleRate),
    isSet: (name: string) => own(module.params, name) !== undefined,
  }
  return memory(context, shape.voices, shape.sides)
}

/** The same with what the module's data and the patch's recordings hold, for its table. */
export const tableContextOf = (
  module: PatchModule,
  catalogue: Catalogue,
  sampleRate: number,
  asset: (id: string) => AssetSound | undefined,
): TableContext => {
  const entry = catalogue.get(module.type)!
  return {
    ...contextOf(module, catalogue, sampleRate),
    asset,
    data: (name) =>
      own(module.data, name) ?? entry.description.data?.find((item) => item.name === name)?.default,
  }
}

/** Is this where voices become one? */
export const sumsVoices = (module: PatchModule, catalogue: Catalogue): boolean => {
  const { shape, role } = catalogue.get(module.type)!.description
  return shape?.sumsVoices === true || role === 'output'
}

/**
 * Note source that gives each module its voices: whose stolen voices fade where the module's voices are summed. Found
 * by going on from each note source; the first that comes to a module has it.
 */
export const noteOrigins = (flat: FlatPatch, catalogue: Catalogue): Map<string, string> => {
  // Behind a sum there are no voices any more.
  const sums = new Set(
    flat.modules.filter((module) => sumsVoices(module, catalogue)).map((module) => module.id),
  )
  const origins = new Map<string, string>()
  for (const notes of flat.modules) {
    if (notes.type !== 'notes') continue
    origins.set(notes.id, notes.id)
    const waiting = [notes.id]
    for (let id = waiting.pop(); id !== undefined; id = waiting.pop()) {
      if (sums.has(id)) continue
      for (const { module } of readersOf(flat, id)) {
        if (origins.has(module)) continue
        origins.set(module, notes.id)
        waiting.push(module)
      }
    }
  }
  return origins
}

/** Shape of one output: the module's own, unless the port says otherwise. */
export const outputShape = (
  shape: Shape,
  port: { readonly voices?: 1; readonly sides?: 1 | 2 } | undefined,
): Shape => ({ voices: port?.voices ?? shape.voices, sides: port?.sides ?? shape.sides })

/** Most voices of what each module ends up feeding, up to sums and what takes voices apart; 1 where there is none. */
const voicesAhead = (
  flat: FlatPatch,
  catalogue: Catalogue,
  shapes: ReadonlyMap<string, Shape>,
  readers: ReadonlyMap<string, ReadonlySet<string>>,
): Map<string, number> => {
  const numbers = new Map(flat.modules.map((module, number) => [module.id, number]))
  const passes = flat.modules.map(({ type }) => {
    const { shape } = catalogue.get(type)!.description
    return !shape?.sumsVoices && !shape?.endsVoices
  })
  const edges = flat.modules.map(({ id }) =>
    [...(readers.get(id) ?? [])].map((reader) => numbers.get(reader)!).filter((number) => passes[number]),
  )
  const { of, members } = components(edges.length, edges)
  const voices = (number: number): number => shapes.get(flat.modules[number]!.id)!.voices
  // Sources come first: from the end on, all that a component feeds is known.
  const ahead = members.map(() => 1)
  for (let c = members.length - 1; c >= 0; c -= 1)
    for (const node of members[c]!)
      for (const next of edges[node]!)
        ahead[c] = Math.max(ahead[c]!, voices(next), of[next] === c ? 1 : ahead[of[next]!]!)
  return new Map(flat.modules.map(({ id }, number) => [id, ahead[of[number]!]!]))
}

/** Voices of each random source that draws values for every voice it ends up in; those that get one are left out. */
const drawnVoices = (
  flat: FlatPatch,
  catalogue: Catalogue,
  shapes: ReadonlyMap<string, Shape>,
  readers: ReadonlyMap<string, ReadonlySet<string>>,
): Map<string, number> => {
  const drawing = flat.modules.filter((module) => {
    const rule = catalogue.get(module.type)!.description.shape?.perVoice
    return (
      rule !== undefined &&
      (own(module.params, 'per') ?? 'voice') === 'voice' &&
      !rule.without.some((input) => flat.feeds.has(`${module.id}.${input}`))
    )
  })
  if (drawing.length === 0) return new Map()
  const ahead = voicesAhead(flat, catalogue, shapes, readers)
  return new Map(drawing.map(({ id }) => [id, ahead.get(id)!] as const).filter(([, voices]) => voices > 1))
}

/**
 * Infers every module's shape: the largest voice count and the widest side among what comes in, unless its description
 * rules otherwise. Shapes only ever grow, so going round until nothing changes ends, loops included.
 */
export const inferShapes = (
  flat: FlatPatch,
  catalogue: Catalogue,
  sampleRate: number,
): Map<string, Shape> => {
  const rules = new Map(flat.modules.map((module) => [module.id, catalogue.get(module.type)!]))
  const incoming = new Map<string, { module: string; port: string }[]>(
    flat.modules.map((module) => [module.id, []]),
  )
  const readers = new Map<string, Set<string>>()
  for (const [target, feeds] of flat.feeds) {
    const id = target.slice(0, target.indexOf('.'))
    for (const { module, port } of feeds) {
      incoming.get(id)!.push({ module, port })
      readers.set(module, (readers.get(module) ?? new Set()).add(id))
    }
  }
  for (const [formula, served] of flat.serves) {
    if (!incoming.has(formula) || !incoming.has(served)) continue
    incoming.get(formula)!.push({ module: served, port: '' })
    readers.set(served, (readers.get(served) ?? new Set()).add(formula))
  }
  const shapes = new Map<string, Shape>()
  for (const module of flat.modules) {
    const rule = rules.get(module.id)!.description.shape
    const voices = rule?.voices
      ? Math.min(MOST_VOICES, Math.max(1, rule.voices(contextOf(module, catalogue, sampleRate))))
      : 1
    shapes.set(module.id, { voices, sides: rule?.sides ?? 1 })
  }
  const grow = (): void => growShapes(flat, rules, incoming, readers, shapes)
  grow()
  // Random sources take the voices of what they feed, and carry them on.
  const drawn = drawnVoices(flat, catalogue, shapes, readers)
  if (drawn.size > 0) {
    for (const [id, voices] of drawn)
      shapes.set(id, { ...shapes.get(id)!, voices: Math.max(voices, shapes.get(id)!.voices) })
    grow()
  }
  return shapes
}

/** Goes round until every module has the largest shape among what comes in. */
const growShapes = (
  flat: FlatPatch,
  rules: ReadonlyMap<string, CatalogueEntry>,
  incoming: ReadonlyMap<string, readonly { readonly module: string; readonly port: string }[]>,
  readers: ReadonlyMap<string, ReadonlySet<string>>,
  shapes: Map<string, Shape>,
): void => {
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
}

/** Shape of every output of a patch, for pictures: `osc.saw` → voices and sides. */
export const outputShapes = (flat: FlatPatch, catalogue: Catalogue): Map<string, Shape> => {
  const shapes = inferShapes(flat, catalogue, 48000)
  return new Map(
    flat.modules.flatMap((module) =>
      catalogue
        .get(module.type)!
        .description.outputs.map((port): [string, Shape] => [
          `${module.id}.${port.name}`,
          outputShape(shapes.get(module.id)!, port),
        ]),
    ),
  )
}
