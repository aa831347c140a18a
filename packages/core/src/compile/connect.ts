/** Second stage: every module with its inputs, parameters and settings; what ends on them as adapters. */
import type { InputForm } from './form.ts'
import { seedOf } from './options.ts'
import { fedOf, keepPiece, keptPiece, type Needs, type Piece, type Read } from './piece.ts'
import type { Place } from './place.ts'
import { NOTHING, ONE, type PlanModule, type PlanParam, type PlanSignal } from './plan.ts'
import { memoryOf, outputShape, sumsVoices } from './shapes.ts'
import type { Source } from './source.ts'
import { tableFor } from './tables.ts'
import { type Joined, signalFrom, termsOf } from './terms.ts'

/** A lone cable of amount 1 and the same shape is read directly; nobody sets its amount. */
const isDirect = ([first, ...more]: readonly Joined[]): boolean =>
  first !== undefined &&
  more.length === 0 &&
  first.term.amount === 1 &&
  first.term.mapping === 'same' &&
  first.term.cable === undefined &&
  first.term.role === 'steady'

/** A piece while it is made. */
class Making {
  readonly params: PlanParam[] = []
  readonly signals: (readonly [number: number, signal: PlanSignal])[] = []
  readonly reads: Read[] = []
  readonly inputs: (readonly [slot: number, signal: number])[] = []

  constructor(
    private readonly source: Source,
    private readonly place: Place,
  ) {
    const { facts, shape } = place
    facts.form.outputs.forEach(({ port, at }, index) => {
      const { voices, sides } = outputShape(shape, port)
      const key = facts.outputKeys[index]!
      this.signals.push([place.signal + at, { key, voices, sides, origin: 'output' }])
    })
    facts.form.inputs.forEach((input, index) => {
      const key = facts.inputKeys[index]!,
        joined = termsOf(source, place, key, input.fades)
      this.inputs.push([input.slot, joined.length > 0 ? this.read(input, key, joined) : NOTHING])
    })
    for (let index = 0; index < facts.params.length; index += 1) this.addParam(index)
  }

  /** A signal of the module's shape; its number in the plan. */
  private addSignal(at: number, key: string, origin: PlanSignal['origin']): number {
    const { voices, sides } = this.place.shape
    const number = this.place.signal + at
    this.signals.push([number, { key, voices, sides, origin }])
    return number
  }

  /** Brings what ends on an input into the module's shape; the signal the module reads. */
  private read(
    { name, at, stages }: InputForm,
    key: string,
    joined: readonly Joined[],
    param = NOTHING,
    factor = NOTHING,
  ): number {
    if (param < 0 && isDirect(joined)) {
      this.reads.push({ input: name, joined, adapter: undefined, factor, stages })
      return joined[0]!.term.source
    }
    const signal = this.addSignal(at, `>${key}`, 'adapter'),
      terms = joined.map(({ term }) => term),
      { voices, sides } = this.place.shape
    const fades = terms.some(({ role }) => role === 'leaving' || role === 'arriving')
    const adapter = { key, signal, voices, sides, terms, param, fades }
    this.reads.push({ input: name, joined, adapter, factor, stages })
    return signal
  }

  private addParam(index: number): void {
    const { source, place } = this,
      { facts } = place
    const { key, record, set } = facts.params[index]!,
      form = facts.form.params[index]!
    const joined = termsOf(source, place, key, true),
      modulated = joined.length > 0
    const factor = form.factor && modulated ? this.addSignal(form.factor.at, `^${key}`, 'factor') : NOTHING
    const signal = place.signal + form.at
    const { base, mode, min, max, least, exact } = record,
      original = source.before.copies.get(place.module.id)
    // Written out: objects that are spread have each a shape of their own, and are slow to read ever after.
    const made: PlanParam = { key, base, mode, min, max, least, exact, signal, factor, modulated }
    this.params.push(original === undefined ? made : { ...made, copyOf: `${original}.${form.name}` })
    if (modulated) this.read(form, key, joined, place.param + index, factor)
    else this.signals.push([signal, set])
    this.inputs.push([form.slot, signal])
    if (form.factor) this.inputs.push([form.factor.slot, modulated ? factor : ONE])
  }
}

/** Most voices of anything that ends on a module's inputs. */
const fedVoices = (source: Source, { module, facts }: Place): number => {
  let most = 1
  for (const { input, feeds } of fedOf(source, module.id))
    if (facts.entry.inputs.has(input))
      for (const feed of feeds) most = Math.max(most, signalFrom(source, feed.module, feed.port).shape.voices)
  return most
}

/** Where a copy gets its state from: a module that plays on beside it, or one that does not. */
const originOf = ({ before, flat }: Source, id: string): Pick<PlanModule, 'copyOf' | 'stateOf'> => {
  const original = before.copies.get(id)
  if (original === undefined) return {}
  return flat.byId.has(original) ? { copyOf: original } : { stateOf: original }
}

const makePiece = (source: Source, place: Place, needs: Needs): Piece => {
  const { module, facts, shape, signal } = place
  const { params, signals, reads, inputs } = new Making(source, place)
  const made: PlanModule = {
    id: module.id,
    type: module.type,
    voices: shape.voices,
    sides: shape.sides,
    fedVoices: fedVoices(source, place),
    seed: needs.seed,
    inputs,
    settings: facts.settings,
    auxBytes: needs.auxBytes,
    outputs: facts.form.outputs.map(({ slot, at }) => [slot, signal + at]),
  }
  const origin = originOf(source, module.id)
  return {
    place,
    fed: fedOf(source, module.id),
    module: withMore(made, needs, origin),
    params,
    signals,
    reads,
    sums: shape.voices === 1 && sumsVoices(module, source.catalogue),
    fades: reads.some(({ adapter }) => adapter?.fades === true),
  }
}

/** Most modules have nothing more. */
const withMore = (
  made: PlanModule,
  { table, keeper }: Needs,
  origin: Pick<PlanModule, 'copyOf' | 'stateOf'>,
): PlanModule =>
  table || keeper !== undefined || origin.copyOf || origin.stateOf
    ? { ...made, ...origin, ...(table ? { table } : {}), ...(keeper === undefined ? {} : { keeper }) }
    : made

/** What a module brings to the plan: the piece of the plan before where nothing about it has changed. */
export const connect = (source: Source, place: Place): Piece => {
  const { catalogue, flat, sampleRate, settings, before, patch, options } = source,
    { module, shape, facts } = place
  const { memory, table } = facts.entry.description
  const words = table ? tableFor(module, catalogue, sampleRate, options.assets) : undefined
  const needs: Needs = {
    auxBytes: memory ? memoryOf(module, shape, flat, settings, catalogue, sampleRate, words) : 0,
    seed: seedOf(patch.seed ?? 1, before.copies.get(module.id) ?? module.id),
    table: words,
    keeper: flat.keepers.get(module.id),
  }
  const kept = keptPiece(source, place, needs)
  if (kept) return kept
  const made = makePiece(source, place, needs)
  keepPiece(place, made)
  return made
}
