import { CATALOGUE } from '../catalogue.ts'
import { flatten, type FlatPatch } from '../compile/flatten.ts'
import type { Latency } from '../compile/align.ts'
import type { Plan } from '../compile/plan.ts'
import type { Patch } from '../patch/types.ts'
import { findings, missingNeeds } from './findings.ts'
import { estimatedLoad } from './load.ts'
import { type LoopAdvice, loopAdvice } from './loops.ts'
import { addingOutput, finding, type Finding, leadingOut } from './remedy.ts'

/** What a user would want to know about a patch that is valid. */
export interface Advice {
  readonly silent: readonly Finding[]
  readonly unconnected: readonly Finding[]
  /** Valid, but probably not meant. */
  readonly hints: readonly Finding[]
  readonly loops: readonly LoopAdvice[]
  readonly voices: number
  /** By how many samples the outputs are late, and which paths are held back to meet them. */
  readonly latency: Latency
  /** Of one core while everything plays. */
  readonly loadPercent: number
}

/** Modules from which no way leads to an output, and outputs nothing leads to. */
const silentPaths = (patch: Patch, { modules, feeds }: FlatPatch): Finding[] => {
  const outputs = modules.filter(({ type }) => CATALOGUE.get(type)?.description.role === 'output')
  if (outputs.length === 0)
    return [
      {
        place: 'modules',
        message: 'there is no output module: nothing can be heard. Add one and connect the last module to it',
        remedies: modules.length > 0 ? [addingOutput(patch)] : [],
      },
    ]
  const sources = new Map<string, string[]>(modules.map((module) => [module.id, []]))
  for (const [target, list] of feeds)
    for (const { module } of list) sources.get(target.slice(0, target.indexOf('.')))!.push(module)
  // A set takes in what is added while it is walked.
  const heard = new Set(outputs.map((module) => module.id))
  for (const id of heard) for (const source of sources.get(id) ?? []) heard.add(source)
  return modules
    .filter((module) => !heard.has(module.id) && !module.id.startsWith('~'))
    .map((module) =>
      finding(module.id, 'leads to no output', () => leadingOut(patch, module.id, outputs[0]!.id)),
    )
}

export const adviseOn = (patch: Patch, plan: Plan): Advice => {
  const flat = flatten(patch, CATALOGUE)
  return {
    silent: silentPaths(patch, flat),
    unconnected: missingNeeds(patch, flat),
    hints: findings(patch, flat),
    loops: plan.loops.map((loop) => loopAdvice(flat, loop)),
    latency: plan.latency,
    voices: Math.max(1, ...plan.modules.map((module) => module.voices)),
    loadPercent: 100 * estimatedLoad(plan, flat),
  }
}
