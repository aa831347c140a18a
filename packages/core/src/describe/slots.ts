import { INSTANCE_PORTS } from '../kernels/abi.ts'
import { isSignalParam, kindOf } from './kinds/index.ts'
import type { ModuleDescription } from './types.ts'

export { isSignalParam } from './kinds/index.ts'

export interface Slots {
  /** Byte offset in the instance of every input port and signal parameter, in one namespace. */
  readonly inputs: ReadonlyMap<string, number>
  readonly factors: ReadonlyMap<string, number>
  readonly outputs: ReadonlyMap<string, number>
  readonly settings: ReadonlyMap<string, number>
  /** Byte offset in a group's state of every named vector. */
  readonly state: ReadonlyMap<string, number>
  readonly flushedVectors: number
  readonly stateVectors: number
  readonly instanceBytes: number
}

const nameAndCount = (entry: string): [string, number] => {
  const [name = '', count] = entry.split('*')
  return [name, count === undefined ? 1 : Number(count)]
}

/** Where everything of a module stands in its instance: the one source for host and kernels. */
export const slotsOf = (module: ModuleDescription): Slots => {
  let offset = INSTANCE_PORTS
  const take = (names: readonly string[]): Map<string, number> =>
    new Map(
      names.map((name) => {
        const at = offset
        offset += 4
        return [name, at] as const
      }),
    )
  const signals = module.params.filter(isSignalParam)
  const inputs = take([...module.inputs.map((port) => port.name), ...signals.map((param) => param.name)])
  const factors = take(
    signals.filter((param) => 'factor' in param && param.factor).map((param) => param.name),
  )
  const outputs = take([...module.outputs.map((port) => port.name), ...(module.tells ?? [])])
  const settings = take(
    module.params
      .filter((param) => !isSignalParam(param) && kindOf(param).stored !== undefined)
      .map((param) => param.name),
  )
  let vectors = 0
  const state = new Map<string, number>()
  const place = (entries: readonly string[] = []): void => {
    for (const entry of entries) {
      const [name, count] = nameAndCount(entry)
      state.set(name, vectors * 16)
      vectors += count
    }
  }
  place(module.state?.flushed)
  const flushedVectors = vectors
  place(module.state?.kept)
  return {
    inputs,
    factors,
    outputs,
    settings,
    state,
    flushedVectors,
    stateVectors: vectors,
    instanceBytes: offset,
  }
}

/** Kernel functions of a module, in order: its stages, each followed by its delay report where it has one. */
export const functionsOf = (module: ModuleDescription): string[] =>
  module.flattened
    ? []
    : (module.stages ?? [{ name: 'process' }]).flatMap((stage) =>
        'reportsDelay' in stage && stage.reportsDelay ? [stage.name, `${stage.name}Least`] : [stage.name],
      )
