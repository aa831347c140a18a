/**
 * What all modules of a type have in common for the compiler. Signals of a module are numbered from 0 on: outputs, inputs,
 * parameters, factors; a plan numbers them on from where the module stands in it.
 */
import type { CatalogueEntry } from '../catalogue.ts'
import { isSignalParam } from '../describe/kinds/index.ts'
import type { OutputDescription, ParamDescription, Stage } from '../describe/types.ts'

export interface InputForm {
  readonly name: string
  readonly slot: number
  /** Number of the signal that what ends here is brought together in. */
  readonly at: number
  /** Stages that read it, by number. */
  readonly stages: readonly number[]
  /** Changes of what ends here cross-fade. */
  readonly fades: boolean
}

export interface OutputForm {
  readonly port: OutputDescription
  readonly slot: number
  /** Number of its signal. */
  readonly at: number
  /** The last stage that writes it, by number; -1 where none does. */
  readonly stage: number
}

export interface ParamForm extends InputForm {
  readonly param: ParamDescription
  /** Place of the factor 2^modulation, where the kernel reads it, and the number of its signal. */
  readonly factor: { readonly slot: number; readonly at: number } | undefined
}

export interface Form {
  readonly stages: readonly Stage[]
  readonly inputs: readonly InputForm[]
  readonly outputs: readonly OutputForm[]
  readonly params: readonly ParamForm[]
  /** Number of the signal of every output, and of every parameter that is no output's namesake: formulas read those. */
  readonly signalAt: ReadonlyMap<string, number>
  /** How many signals it may have. */
  readonly signals: number
}

const WHOLE: readonly Stage[] = [{ name: 'process' }]

/** Numbers of the stages that read an input. */
const readersAmong = (stages: readonly Stage[], input: string): number[] =>
  stages.flatMap(({ reads }, at) => (reads && !reads.includes(input) ? [] : [at]))

const lastWriterAmong = (stages: readonly Stage[], output: string): number =>
  stages.reduce((last, { writes }, at) => (writes && !writes.includes(output) ? last : at), -1)

const makeForm = ({ description, slots }: CatalogueEntry): Form => {
  const stages = description.stages ?? WHOLE,
    given = description.params.filter(isSignalParam)
  const written: readonly OutputDescription[] = [
    ...description.outputs,
    ...(description.tells ?? []).map((name) => ({ name, kind: 'control', sides: 1 }) as const),
  ]
  const inputAt = written.length,
    paramAt = inputAt + description.inputs.length,
    factorAt = paramAt + given.length
  const outputs = written.map((port, at): OutputForm => ({
    port,
    slot: slots.outputs.get(port.name)!,
    at,
    stage: lastWriterAmong(stages, port.name),
  }))
  const inputs = description.inputs.map(({ name, kind }, index): InputForm => ({
    name,
    slot: slots.inputs.get(name)!,
    at: inputAt + index,
    stages: readersAmong(stages, name),
    fades: kind === 'audio' || kind === 'control',
  }))
  const params = given.map((param, index): ParamForm => {
    const factor = slots.factors.get(param.name)
    return {
      name: param.name,
      slot: slots.inputs.get(param.name)!,
      at: paramAt + index,
      stages: readersAmong(stages, param.name),
      fades: true,
      param,
      factor: factor === undefined ? undefined : { slot: factor, at: factorAt + index },
    }
  })
  const signalAt = new Map(params.map(({ name, at }) => [name, at]))
  for (const { port, at } of outputs) signalAt.set(port.name, at)
  return { stages, inputs, outputs, params, signalAt, signals: factorAt + given.length }
}

const known = new WeakMap<CatalogueEntry, Form>()

/** Made once for a type. */
export const formOf = (entry: CatalogueEntry): Form => {
  let form = known.get(entry)
  if (!form) {
    form = makeForm(entry)
    known.set(entry, form)
  }
  return form
}
