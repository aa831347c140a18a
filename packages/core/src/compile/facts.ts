/**
 * What a compilation needs to know of a module whatever surrounds it: names, plain values. Made once for a module of the
 * document, which is immutable; an edit elsewhere finds it here.
 */
import type { CatalogueEntry } from '../catalogue.ts'
import { leastOf, paramAt } from '../describe/params.ts'
import { kindOf } from '../describe/kinds/index.ts'
import type { ParamDescription } from '../describe/types.ts'
import type { PatchModule } from '../patch/types.ts'
import { own } from '../units/own.ts'
import { type Form, formOf } from './form.ts'
import { plainValue } from './options.ts'
import type { PlanModule, PlanParam, PlanSignal } from './plan.ts'

export interface ParamFacts {
  /** `module.param`. */
  readonly key: string
  /** Its record but for the signals. */
  readonly record: Omit<PlanParam, 'signal' | 'factor' | 'modulated' | 'copyOf'>
  /** The signal of a set value. */
  readonly set: PlanSignal
}

export interface Facts {
  readonly entry: CatalogueEntry
  readonly form: Form
  /** `module.input` and `module.output`, in the order of the form. */
  readonly inputKeys: readonly string[]
  readonly outputKeys: readonly string[]
  readonly params: readonly ParamFacts[]
  readonly settings: PlanModule['settings']
}

const paramFacts = (module: PatchModule, param: ParamDescription, sampleRate: number): ParamFacts => {
  const number = param.kind === 'number' ? paramAt(param, module.params) : undefined
  const key = `${module.id}.${param.name}`,
    kind = kindOf(param)
  return {
    key,
    record: {
      key,
      base: plainValue(param, own(module.params, param.name)),
      mode: kind.mode(param),
      min: number?.min ?? 0,
      max: number?.max ?? 1,
      least: number?.time ? leastOf(number, sampleRate) : 0,
      exact: kind.isExact(param),
    },
    set: { key: `=${key}`, voices: 1, sides: 1, origin: 'set' },
  }
}

const makeFacts = (module: PatchModule, entry: CatalogueEntry, sampleRate: number): Facts => {
  const { description, slots } = entry,
    form = formOf(entry)
  return {
    entry,
    form,
    inputKeys: form.inputs.map(({ name }) => `${module.id}.${name}`),
    outputKeys: form.outputs.map(({ port }) => `${module.id}.${port.name}`),
    params: form.params.map(({ param }) => paramFacts(module, param, sampleRate)),
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
export const factsOf = (module: PatchModule, entry: CatalogueEntry, sampleRate: number): Facts => {
  const before = known.get(module)
  if (before && before.sampleRate === sampleRate && before.facts.entry === entry) return before.facts
  const facts = makeFacts(module, entry, sampleRate)
  known.set(module, { sampleRate, facts })
  return facts
}
