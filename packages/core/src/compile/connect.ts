/** Second stage: every module with its inputs, parameters and settings; what ends on them as adapters. */
import type { PatchModule } from '../patch/types.ts'
import type { Draft, Source } from './draft.ts'
import { type Facts, factsOf, type ParamFacts } from './facts.ts'
import { seedOf } from './options.ts'
import { NOTHING, ONE, type PlanModule, type PlanParam } from './plan.ts'
import { memoryOf, type Shape } from './shapes.ts'
import { tableFor } from './tables.ts'
import { type Joined, termsOf } from './terms.ts'

/** A lone cable of amount 1 and the same shape is read directly; nobody sets its amount. */
const isDirect = ([first, ...more]: readonly Joined[]): boolean =>
  first !== undefined &&
  more.length === 0 &&
  first.term.amount === 1 &&
  first.term.mapping === 'same' &&
  first.term.cable === undefined &&
  first.term.role === 'steady'

/** Brings what ends on an input into the input's shape; the index of the signal the module reads. */
const connectInput = (
  draft: Draft,
  source: Source,
  module: PatchModule,
  { name, key }: { readonly name: string; readonly key: string },
  shape: Shape,
  param: number,
  fades: boolean,
): number => {
  if (!source.before.exists && !source.flat.feeds.has(key)) return NOTHING
  const joined = termsOf(draft, source, module, name, shape, fades)
  if (joined.length === 0) return NOTHING
  for (const { term } of joined) draft.want(term.source)
  const link = (to: number, { term, feed }: Joined): void => {
    const order = feed?.order ?? Number.MAX_SAFE_INTEGER
    draft.links.push({ from: -1, to, order, input: name, term, name: feed?.name ?? '' })
  }
  if (param < 0 && isDirect(joined)) {
    const [only] = joined
    for (const reader of draft.read(module.id, name, only!.term.source, false)) link(reader, only!)
    return only!.term.source
  }
  const signal = draft.readParams.get(key) ?? draft.addSignal(`>${key}`, shape, 'adapter')
  const terms = joined.map(({ term }) => term)
  const adapter =
    draft.adapters.push({
      key,
      signal,
      voices: shape.voices,
      sides: shape.sides,
      terms,
      param,
      fades: terms.some(({ role }) => role === 'leaving' || role === 'arriving'),
    }) - 1
  const node = draft.addNode({ kind: 'adapter', adapter }, -1, undefined, 'adapter')
  draft.writers.set(signal, node)
  for (const item of joined) link(node, item)
  draft.read(module.id, name, signal)
  return signal
}

/** A parameter's record, the very one of the plan before where nothing about it has changed. */
const recordOf = (
  facts: ParamFacts,
  original: string | undefined,
  signal: number,
  factor: number,
  modulated: boolean,
): PlanParam => {
  const { last, record } = facts
  if (original !== undefined)
    return { ...record, signal, factor, modulated, copyOf: `${original}.${facts.name}` }
  if (last !== undefined && last.signal === signal && last.factor === factor && last.modulated === modulated)
    return last
  const { key, base, mode, min, max, least, exact } = record
  // Written out: objects that are spread have each a shape of their own, and are slow to read ever after.
  const made: PlanParam = { key, base, mode, min, max, least, exact, signal, factor, modulated }
  facts.last = made
  return made
}

const isModulated = (
  draft: Draft,
  source: Source,
  module: PatchModule,
  { name, key }: ParamFacts,
  shape: Shape,
): boolean =>
  source.flat.feeds.has(key) ||
  (source.before.exists &&
    source.before.termsOf(key).size > 0 &&
    termsOf(draft, source, module, name, shape, true).length > 0)

const connectParam = (
  draft: Draft,
  source: Source,
  module: PatchModule,
  facts: ParamFacts,
  shape: Shape,
  inputs: (readonly [slot: number, signal: number])[],
): void => {
  const { key, slot, factorSlot } = facts,
    original = source.before.copies.size > 0 ? source.before.copies.get(module.id) : undefined
  const modulated = isModulated(draft, source, module, facts, shape)
  const factor = factorSlot !== undefined && modulated ? draft.addSignal(`^${key}`, shape, 'factor') : NOTHING
  if (modulated) {
    // The adapter's signal is the next one made.
    const expected = draft.readParams.get(key) ?? draft.signals.length
    const index = draft.params.push(recordOf(facts, original, expected, factor, modulated)) - 1
    const signal = connectInput(draft, source, module, facts, shape, index, true)
    inputs.push([slot, signal])
    if (factor >= 0) draft.writers.set(factor, draft.writers.get(signal)!)
  } else {
    const signal = draft.readParams.get(key) ?? draft.signals.push(facts.set) - 1
    draft.params.push(recordOf(facts, original, signal, factor, modulated))
    inputs.push([slot, signal])
  }
  if (factorSlot === undefined) return
  if (factor >= 0) draft.read(module.id, facts.name, factor)
  inputs.push([factorSlot, factor >= 0 ? factor : ONE])
}

/** Most voices of anything that ends on a module's inputs. */
const fedVoices = (draft: Draft, { flat }: Source, { inputs }: Facts): number => {
  let most = 1
  for (const { key } of inputs)
    for (const feed of flat.feeds.get(key) ?? [])
      most = Math.max(most, draft.signals[draft.outputs.get(feed.from) ?? 0]!.voices)
  return most
}

/** Where a copy gets its state from: a module that plays on beside it, or one that does not. */
const originOf = ({ before, flat }: Source, id: string): Pick<PlanModule, 'copyOf' | 'stateOf'> => {
  const original = before.copies.get(id)
  if (original === undefined) return {}
  return flat.byId.has(original) ? { copyOf: original } : { stateOf: original }
}

const connectModule = (draft: Draft, source: Source, module: PatchModule): void => {
  const { catalogue, flat, sampleRate, settings: reach, before, patch } = source
  const facts = factsOf(module, catalogue, sampleRate)
  const shape = source.shapes.get(module.id)!
  const inputs: (readonly [slot: number, signal: number])[] = []
  for (const input of facts.inputs)
    inputs.push([input.slot, connectInput(draft, source, module, input, shape, -1, input.fades)])
  for (const param of facts.params) connectParam(draft, source, module, param, shape, inputs)
  const auxBytes = memoryOf(module, shape, flat, reach, catalogue, sampleRate)
  const table = facts.entry.description.table
    ? tableFor(module, catalogue, sampleRate, source.options.assets)
    : undefined
  draft.memoryBytes += auxBytes + (table?.byteLength ?? 0)
  const made: PlanModule = {
    id: module.id,
    type: module.type,
    voices: shape.voices,
    sides: shape.sides,
    fedVoices: fedVoices(draft, source, facts),
    seed: seedOf(patch.seed ?? 1, before.copies.get(module.id) ?? module.id),
    inputs,
    settings: facts.settings,
    auxBytes,
    outputs: facts.outputs.map(({ slot, key }) => [slot, draft.outputs.get(key)!]),
  }
  const origin = before.copies.size > 0 ? originOf(source, module.id) : undefined
  draft.modules.push(table || origin ? { ...made, ...origin, ...(table ? { table } : {}) } : made)
}

export const connect = (draft: Draft, source: Source): void => {
  for (const module of source.flat.modules) connectModule(draft, source, module)
}
