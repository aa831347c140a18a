import type { Catalogue, CatalogueEntry } from '../catalogue.ts'
import type { AssetSound, ShapeContext, ShapeRule, TableContext } from '../describe/types.ts'
import { isFormula } from '../patch/formulas.ts'
import type { PatchModule } from '../patch/types.ts'
import { components } from '../patch/graph.ts'
import type { FlatPatch } from './flatten.ts'
import { mostAt, type Settings } from './reach.ts'
import { wiringOf } from './wiring.ts'
import { own } from '../units/own.ts'

export interface Shape {
  readonly voices: number
  readonly sides: number
}

export const MOST_VOICES = 16

/** Values of a module's parameters with defaults filled in, for shape and memory rules. */
export const contextOf = (module: PatchModule, catalogue: Catalogue, sampleRate: number): ShapeContext => {
  const entry = catalogue.get(module.type)!
  // A formula may give anything: the default stands for it.
  const value = (name: string): unknown => {
    const given = own(module.params, name)
    return given === undefined || isFormula(given) ? entry.params.get(name)?.default : given
  }
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
  table: Float32Array | undefined,
): number => {
  const { memory } = catalogue.get(module.type)!.description
  if (!memory) return 0
  const context = {
    ...contextOf(module, catalogue, sampleRate),
    most: (name: string) => mostAt(module, name, flat, settings, catalogue, sampleRate),
    isSet: (name: string) => own(module.params, name) !== undefined,
    table,
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
  return role === 'output' || isSumming(module, shape)
}

const isSumming = ({ params }: PatchModule, shape: ShapeRule | undefined): boolean =>
  shape?.sumsVoices === 'unless apart' ? own(params, 'per') !== 'voice' : shape?.sumsVoices === true

/**
 * Note source that gives each module its voices: whose stolen voices fade where the module's voices are summed. Found
 * by going on from each note source; the first that comes to a module has it.
 */
export const noteOrigins = (flat: FlatPatch, catalogue: Catalogue): Map<string, string> => {
  const { onto } = wiringOf(flat),
    { modules } = flat
  const origins = new Map<string, string>()
  modules.forEach((notes, number) => {
    if (catalogue.get(notes.type)!.description.role !== 'notes') return
    origins.set(notes.id, notes.id)
    const waiting = [number]
    for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
      // Behind a sum there are no voices any more.
      if (sumsVoices(modules[at]!, catalogue)) continue
      for (const reader of onto[at]!) {
        const { id } = modules[reader]!
        if (origins.has(id)) continue
        origins.set(id, notes.id)
        waiting.push(reader)
      }
    }
  })
  return origins
}

/** Shape of one output: the module's own, unless the port says otherwise. */
export const outputShape = (
  shape: Shape,
  port: { readonly voices?: 1; readonly sides?: 1 | 2 } | undefined,
): Shape =>
  port?.voices === undefined && port?.sides === undefined
    ? shape
    : { voices: port.voices ?? shape.voices, sides: port.sides ?? shape.sides }

/** Most voices of what each module ends up feeding, up to sums and what takes voices apart; 1 where there is none. */
const voicesAhead = (
  flat: FlatPatch,
  rules: readonly CatalogueEntry[],
  shapes: readonly Shape[],
): number[] => {
  const { onto } = wiringOf(flat)
  const passes = rules.map(
    ({ description: { shape } }, number) =>
      !isSumming(flat.modules[number]!, shape) && shape?.endsVoices !== true,
  )
  const edges = onto.map((readers) => readers.filter((reader) => passes[reader]))
  const { of, members } = components(edges.length, edges)
  // Sources come first: from the end on, all that a component feeds is known.
  const ahead = members.map(() => 1)
  for (let c = members.length - 1; c >= 0; c -= 1)
    for (const node of members[c]!)
      for (const next of edges[node]!)
        ahead[c] = Math.max(ahead[c]!, shapes[next]!.voices, of[next] === c ? 1 : ahead[of[next]!]!)
  return flat.modules.map((_, number) => ahead[of[number]!]!)
}

/** Random sources that draw values for every voice they end up in, by number. */
const drawing = ({ modules, feeds }: FlatPatch, rules: readonly CatalogueEntry[]): number[] =>
  [...modules.keys()].filter((number) => {
    const { id, params } = modules[number]!,
      rule = rules[number]!.description.shape?.perVoice
    return (
      rule !== undefined &&
      (own(params, 'per') ?? 'voice') === 'voice' &&
      !rule.without.some((input) => feeds.has(`${id}.${input}`))
    )
  })

/**
 * Infers every module's shape: the largest voice count and the widest side among what comes in, unless its description
 * rules otherwise. Shapes only ever grow, so going round until nothing changes ends, loops included.
 */
export const inferShapes = (
  flat: FlatPatch,
  catalogue: Catalogue,
  sampleRate: number,
): Map<string, Shape> => {
  const rules = flat.modules.map(({ type }) => catalogue.get(type)!)
  const shapes = flat.modules.map((module, number): Shape => {
    const rule = rules[number]!.description.shape
    const voices = rule?.voices
      ? Math.min(MOST_VOICES, Math.max(1, rule.voices(contextOf(module, catalogue, sampleRate))))
      : 1
    return { voices, sides: rule?.sides ?? 1 }
  })
  growShapes(flat, rules, shapes)
  // Random sources take the voices of what they feed, and carry them on.
  const sources = drawing(flat, rules)
  if (sources.length > 0) {
    const ahead = voicesAhead(flat, rules, shapes)
    for (const number of sources) {
      const { voices, sides } = shapes[number]!
      shapes[number] = { voices: Math.max(voices, ahead[number]!), sides }
    }
    growShapes(flat, rules, shapes)
  }
  return new Map(flat.modules.map(({ id }, number) => [id, shapes[number]!]))
}

/** Goes round until every module has the largest shape among what comes in. */
const growShapes = (flat: FlatPatch, rules: readonly CatalogueEntry[], shapes: Shape[]): void => {
  const { into, onto } = wiringOf(flat)
  // In file order, which is mostly the order of the sound: few are looked at twice.
  const waiting = [...shapes.keys()],
    queued = new Uint8Array(shapes.length).fill(1)
  for (const number of waiting) {
    queued[number] = 0
    const rule = rules[number]!.description.shape,
      now = shapes[number]!
    let { voices, sides } = now
    for (const { from, port } of into[number]!) {
      const source = outputShape(shapes[from]!, rules[from]!.outputs.get(port))
      if (!rule?.voices && !isSumming(flat.modules[number]!, rule)) voices = Math.max(voices, source.voices)
      if (!rule?.sides) sides = Math.max(sides, source.sides)
    }
    if (voices === now.voices && sides === now.sides) continue
    shapes[number] = { voices, sides }
    for (const reader of onto[number]!) {
      if (queued[reader]) continue
      queued[reader] = 1
      waiting.push(reader)
    }
  }
}
