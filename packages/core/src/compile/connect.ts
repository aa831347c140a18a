/** Second stage: every module with its inputs, parameters and settings; what ends on them as adapters. */
import type { CatalogueEntry } from '../catalogue.ts'
import { leastOf, paramAt } from '../describe/params.ts'
import { isSignalParam } from '../describe/slots.ts'
import type { ParamDescription } from '../describe/types.ts'
import type { PatchModule } from '../patch/types.ts'
import { append } from '../units/append.ts'
import { own } from '../units/own.ts'
import type { Draft, Source } from './draft.ts'
import { plainValue, seedOf } from './options.ts'
import { NOTHING, ONE, type ParamMode, type PlanModule, type PlanParam } from './plan.ts'
import { memoryOf, type Shape } from './shapes.ts'
import { tableFor } from './tables.ts'
import { type Joined, termsOf } from './terms.ts'

const modeOf = (param: ParamDescription): ParamMode =>
  param.kind === 'switch'
    ? 'switch'
    : param.kind === 'number' && param.log
      ? 'octaves'
      : param.kind === 'number' && param.time
        ? 'time'
        : 'linear'

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
  input: string,
  shape: Shape,
  param: number,
  fades: boolean,
): number => {
  const key = `${module.id}.${input}`
  if (!source.before.exists && !source.flat.feeds.has(key)) return NOTHING
  const joined = termsOf(draft, source, module, input, shape, fades)
  if (joined.length === 0) return NOTHING
  for (const { term } of joined) draft.signals[term.source]!.wanted = true
  const link = (to: number, { term, feed }: Joined): void => {
    const order = feed?.order ?? Number.MAX_SAFE_INTEGER
    draft.links.push({ to, order, term, name: feed?.name ?? '' })
  }
  if (param < 0 && isDirect(joined)) {
    const [only] = joined
    for (const reader of draft.read(module.id, input, only!.term.source, false)) link(reader, only!)
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
  draft.read(module.id, input, signal)
  return signal
}

/** A parameter's record: its value as kernels read it, how it moves, and how far. */
const recordOf = (
  { before, sampleRate }: Source,
  module: PatchModule,
  param: ParamDescription,
  { signal, factor, modulated }: Pick<PlanParam, 'signal' | 'factor' | 'modulated'>,
): PlanParam => {
  const number = param.kind === 'number' ? paramAt(param, module.params) : undefined
  const original = before.copies.get(module.id)
  return {
    key: `${module.id}.${param.name}`,
    base: plainValue(param, own(module.params, param.name)),
    mode: modeOf(param),
    min: number?.min ?? 0,
    max: number?.max ?? 1,
    least: number?.time ? leastOf(number, sampleRate) : 0,
    exact: param.kind === 'switch' || number?.exact === true,
    signal,
    factor,
    modulated,
    ...(original === undefined ? {} : { copyOf: `${original}.${param.name}` }),
  }
}

const isModulated = (
  draft: Draft,
  source: Source,
  module: PatchModule,
  name: string,
  shape: Shape,
): boolean => {
  const key = `${module.id}.${name}`
  if (source.flat.feeds.has(key)) return true
  return source.before.termsOf(key).size > 0 && termsOf(draft, source, module, name, shape, true).length > 0
}

const connectParam = (
  draft: Draft,
  source: Source,
  module: PatchModule,
  entry: CatalogueEntry,
  param: ParamDescription,
  shape: Shape,
): (readonly [slot: number, signal: number])[] => {
  const key = `${module.id}.${param.name}`
  const modulated = isModulated(draft, source, module, param.name, shape)
  const wantsFactor = param.kind === 'number' && param.factor === true
  const factor = wantsFactor && modulated ? draft.addSignal(`^${key}`, shape, 'factor') : NOTHING
  const slot = entry.slots.inputs.get(param.name)!,
    inputs: [number, number][] = []
  if (modulated) {
    // The adapter's signal is the next one made.
    const expected = draft.readParams.get(key) ?? draft.signals.length
    const index =
      draft.params.push(recordOf(source, module, param, { signal: expected, factor, modulated })) - 1
    const signal = connectInput(draft, source, module, param.name, shape, index, true)
    inputs.push([slot, signal])
    if (factor >= 0) draft.writers.set(factor, draft.writers.get(signal)!)
  } else {
    const signal = draft.readParams.get(key) ?? draft.addSignal(`=${key}`, { voices: 1, sides: 1 }, 'set')
    draft.params.push(recordOf(source, module, param, { signal, factor, modulated }))
    inputs.push([slot, signal])
  }
  const factorSlot = entry.slots.factors.get(param.name)
  if (factorSlot === undefined) return inputs
  if (factor >= 0) draft.read(module.id, param.name, factor)
  return [...inputs, [factorSlot, factor >= 0 ? factor : ONE]]
}

/** Most voices of anything that ends on a module's inputs. */
const fedVoices = (draft: Draft, { flat, catalogue }: Source, { id, type }: PatchModule): number =>
  Math.max(
    1,
    ...catalogue
      .get(type)!
      .description.inputs.flatMap((port) =>
        (flat.feeds.get(`${id}.${port.name}`) ?? []).map(
          (feed) => draft.signals[draft.outputs.get(`${feed.module}.${feed.port}`) ?? 0]!.voices,
        ),
      ),
  )

/** Where a copy gets its state from: a module that plays on beside it, or one that does not. */
const originOf = ({ before, flat }: Source, id: string): Pick<PlanModule, 'copyOf' | 'stateOf'> => {
  const original = before.copies.get(id)
  if (original === undefined) return {}
  return flat.byId.has(original) ? { copyOf: original } : { stateOf: original }
}

const connectModule = (draft: Draft, source: Source, module: PatchModule): void => {
  const { catalogue, flat, sampleRate, settings: reach, before, patch } = source
  const entry = catalogue.get(module.type)!
  const { description, slots } = entry
  const shape = source.shapes.get(module.id)!
  const inputs = description.inputs.map(({ name, kind }): readonly [number, number] => [
    slots.inputs.get(name)!,
    connectInput(draft, source, module, name, shape, -1, kind === 'audio' || kind === 'control'),
  ])
  for (const param of description.params)
    if (isSignalParam(param)) append(inputs, connectParam(draft, source, module, entry, param, shape))
  const settings = description.params.flatMap((param): (readonly [number, number, boolean])[] => {
    const slot = slots.settings.get(param.name)
    return slot === undefined
      ? []
      : [[slot, plainValue(param, own(module.params, param.name)), param.kind === 'choice']]
  })
  const auxBytes = memoryOf(module, shape, flat, reach, catalogue, sampleRate)
  const table = description.table ? tableFor(module, catalogue, sampleRate, source.options.assets) : undefined
  draft.memoryBytes += auxBytes + (table?.byteLength ?? 0)
  draft.modules.push({
    id: module.id,
    type: module.type,
    voices: shape.voices,
    sides: shape.sides,
    fedVoices: fedVoices(draft, source, module),
    seed: seedOf(patch.seed ?? 1, before.copies.get(module.id) ?? module.id),
    ...originOf(source, module.id),
    inputs,
    settings,
    auxBytes,
    ...(table ? { table } : {}),
    outputs: description.outputs.map(({ name }) => [
      slots.outputs.get(name)!,
      draft.outputs.get(`${module.id}.${name}`)!,
    ]),
  })
}

export const connect = (draft: Draft, source: Source): void => {
  for (const module of source.flat.modules) connectModule(draft, source, module)
}
