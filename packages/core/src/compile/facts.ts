/**
 * What a compilation needs to know of a module whatever surrounds it: names, places, plain values. Made once for a
 * module of the document, which is immutable; an edit elsewhere finds it here.
 */
import type { Catalogue, CatalogueEntry } from '../catalogue.ts'
import { leastOf, paramAt } from '../describe/params.ts'
import { isSignalParam, kindOf } from '../describe/kinds/index.ts'
import type { ParamDescription } from '../describe/types.ts'
import type { PatchModule } from '../patch/types.ts'
import { own } from '../units/own.ts'
import { plainValue } from './options.ts'
import type { PlanModule, PlanParam, PlanSignal } from './plan.ts'

export interface InputFacts {
  readonly name: string
  /** `module.input`. */
  readonly key: string
  readonly slot: number
  /** Changes of what ends here cross-fade. */
  readonly fades: boolean
}

export interface OutputFacts {
  readonly port: CatalogueEntry['description']['outputs'][number]
  readonly key: string
  readonly slot: number
}

export interface ParamFacts {
  readonly name: string
  readonly key: string
  readonly slot: number
  /** Place of the factor 2^modulation, where the kernel reads it. */
  readonly factorSlot: number | undefined
  /** Its record but for the signals. */
  readonly record: Omit<PlanParam, 'signal' | 'factor' | 'modulated' | 'copyOf'>
  /** The signal of a set value. */
  readonly set: PlanSignal
  /** The record as it was last made: most stay as they are from plan to plan. */
  last: PlanParam | undefined
}

export interface Facts {
  readonly entry: CatalogueEntry
  readonly inputs: readonly InputFacts[]
  readonly outputs: readonly OutputFacts[]
  readonly params: readonly ParamFacts[]
  readonly settings: PlanModule['settings']
}

const paramFacts = (
  module: PatchModule,
  { slots }: CatalogueEntry,
  param: ParamDescription,
  sampleRate: number,
): ParamFacts => {
  const number = param.kind === 'number' ? paramAt(param, module.params) : undefined
  const key = `${module.id}.${param.name}`,
    kind = kindOf(param)
  return {
    name: param.name,
    key,
    slot: slots.inputs.get(param.name)!,
    factorSlot: slots.factors.get(param.name),
    record: {
      key,
      base: plainValue(param, own(module.params, param.name)),
      mode: kind.mode(param),
      min: number?.min ?? 0,
      max: number?.max ?? 1,
      least: number?.time ? leastOf(number, sampleRate) : 0,
      exact: kind.isExact(param),
    },
    set: { key: `=${key}`, voices: 1, sides: 1, inLoop: false, wanted: true, origin: 'set' },
    last: undefined,
  }
}

const makeFacts = (module: PatchModule, entry: CatalogueEntry, sampleRate: number): Facts => {
  const { description, slots } = entry
  return {
    entry,
    inputs: description.inputs.map(({ name, kind }) => ({
      name,
      key: `${module.id}.${name}`,
      slot: slots.inputs.get(name)!,
      fades: kind === 'audio' || kind === 'control',
    })),
    outputs: description.outputs.map((port) => ({
      port,
      key: `${module.id}.${port.name}`,
      slot: slots.outputs.get(port.name)!,
    })),
    params: description.params
      .filter(isSignalParam)
      .map((param) => paramFacts(module, entry, param, sampleRate)),
    settings: description.params.flatMap((param): (readonly [number, number, boolean])[] => {
      const slot = slots.settings.get(param.name)
      return slot === undefined
        ? []
        : [[slot, plainValue(param, own(module.params, param.name)), kindOf(param).stored === 'i32']]
    }),
  }
}

const known = new WeakMap<PatchModule, { readonly sampleRate: number; readonly facts: Facts }>()

/** The facts of a module, made once for as long as it stays the same. */
export const factsOf = (module: PatchModule, catalogue: Catalogue, sampleRate: number): Facts => {
  const entry = catalogue.get(module.type)!,
    before = known.get(module)
  if (before && before.sampleRate === sampleRate && before.facts.entry === entry) return before.facts
  const facts = makeFacts(module, entry, sampleRate)
  known.set(module, { sampleRate, facts })
  return facts
}
