/** Edits of several cables at once: a module put into one, bundles, one source to many, all cables of a port. */
import type { Draft } from 'immer'
import { isSignalParam } from '../describe/slots.ts'
import { connect, freshCableId, likelyInputs, mainOutput, outputKind } from './edits.ts'
import { descriptionOf } from './groups.ts'
import { patchIndex } from './index.ts'
import { cableIn, cablesAmong, levelsOf, moduleIn } from './levels.ts'
import type { Patch, PatchModule } from './types.ts'
import { endsOf, splitTarget } from './walk.ts'

type D = Draft<Patch>

/** An input of a kind that has nothing to do with the source's scores less. */
const SUITS = 1

/** Ports of a module that would stand in a cable; undefined where it has no input or no output. */
export const throughPorts = (
  patch: Patch,
  cableId: string,
  module: PatchModule,
): { readonly input: string; readonly output: string } | undefined => {
  const cable = patchIndex(patch).cable.get(cableId)
  if (!cable) return undefined
  const { fromModule, fromPort, toModule } = endsOf(cable)
  if (fromModule === module.id || toModule === module.id) return undefined
  const kind = outputKind(patchIndex(patch).module.get(fromModule), fromPort)
  const input = likelyInputs(kind, module).find(
      (likely) => likely.input !== undefined && likely.score > SUITS,
    ),
    output = mainOutput(module)
  return input && output ? { input: input.name, output: output.name } : undefined
}

/** What a new module is wired to: a source into its likeliest input, its main output to a target. */
export interface NewEnds {
  readonly from?: string | undefined
  readonly to?: string | undefined
}

/** Wires a module that was just added; an end that it has nothing for stays open. */
export const wireNew = (draft: D, id: string, { from, to }: NewEnds): void => {
  const module = moduleIn(draft, id) as PatchModule
  if (from !== undefined) {
    const [source = '', port = ''] = splitTarget(from) ?? []
    const [best] = likelyInputs(outputKind(moduleIn(draft, source) as PatchModule | undefined, port), module)
    if (best) connect(draft, from, `${id}.${best.name}`)
  }
  const output = mainOutput(module)
  if (to !== undefined && output) connect(draft, `${id}.${output.name}`, to)
}

/**
 * Puts a module into a cable: what the cable carried goes through it. The cable keeps its id, its amount and its target,
 * so that what moves its amount goes on doing so.
 *
 * @returns Whether it could: not where it has no input or no output, or is one of the cable's ends.
 */
export const insertInCable = (draft: D, cableId: string, moduleId: string): boolean => {
  const cable = cableIn(draft, cableId),
    module = moduleIn(draft, moduleId) as PatchModule | undefined
  const through = module && throughPorts(draft as Patch, cableId, module)
  if (!cable || !through) return false
  const { from } = cable
  cable.from = `${moduleId}.${through.output}`
  const level = levelsOf(draft).find(({ cables }) => cables.includes(cable))!
  level.cables.push({ id: freshCableId(draft as Patch), from, to: `${moduleId}.${through.input}` })
  return true
}

/** Inputs of a module from one on that take the same kind, those without a cable first; the one itself where it is alone. */
const inputsFrom = (patch: Patch, to: string, count: number): string[] => {
  const [id = '', name = ''] = splitTarget(to) ?? []
  const module = patchIndex(patch).module.get(id)
  const inputs = (module && descriptionOf(module)?.inputs) ?? []
  const at = inputs.findIndex((input) => input.name === name)
  if (at < 0) return new Array<string>(count).fill(to)
  const taken = new Set(patchIndex(patch).cables.map(({ cable }) => cable.to))
  const further = inputs
    .slice(at + 1)
    .filter((input) => input.kind === inputs[at]!.kind && !taken.has(`${id}.${input.name}`))
    .map((input) => `${id}.${input.name}`)
  const row = [to, ...further]
  // Those there is no input for are added to the last one.
  return Array.from({ length: count }, (_, n) => row[Math.min(n, row.length - 1)]!)
}

/** The output of a module that goes with another's: of the same name, or its main one. */
export const outputLike = (module: PatchModule, name: string): string | undefined =>
  descriptionOf(module)?.outputs.find((port) => port.name === name)?.name ?? mainOutput(module)?.name

/** Connects several outputs to an input and those that follow it; ids of the new cables. */
export const connectBundle = (draft: D, outputs: readonly string[], to: string): string[] => {
  const targets = inputsFrom(draft as Patch, to, outputs.length)
  return outputs.flatMap((from, n) => connect(draft, from, targets[n]!) ?? [])
}

/** The targets of one name on several modules that have it. */
export const targetsNamed = (patch: Patch, ids: readonly string[], name: string): string[] =>
  ids.flatMap((id) => {
    const module = patchIndex(patch).module.get(id),
      description = module && descriptionOf(module)
    const has =
      description?.inputs.some((input) => input.name === name) === true ||
      description?.params.some((param) => param.name === name && isSignalParam(param)) === true
    return has ? [`${id}.${name}`] : []
  })

/** Connects one output to several targets; ids of the new cables. */
export const connectEach = (draft: D, from: string, targets: readonly string[]): string[] =>
  targets.flatMap((to) => connect(draft, from, to) ?? [])

/**
 * Moves all cables of a port to another one of the same side; those that are there already are dropped.
 *
 * @returns How many were moved.
 */
export const moveCables = (draft: D, port: string, to: string, end: 'from' | 'to'): number => {
  if (port === to) return 0
  const other = end === 'from' ? 'to' : 'from'
  const all = cablesAmong(draft)
  const there = new Set(all.filter((cable) => cable[end] === to).map((cable) => cable[other]))
  const twice = new Set<unknown>()
  let moved = 0
  for (const cable of all) {
    if (cable[end] !== port) continue
    if (there.has(cable[other])) twice.add(cable)
    else cable[end] = to
    moved += 1
  }
  for (const level of twice.size > 0 ? levelsOf(draft) : [])
    level.cables = level.cables.filter((cable) => !twice.has(cable))
  return moved
}
