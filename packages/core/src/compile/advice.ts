import { CATALOGUE } from '../catalogue.ts'
import type { Plan } from './plan.ts'
import { flatten, type FlatPatch } from './flatten.ts'
import type { Fault, Patch } from '../patch/types.ts'

export interface LoopAdvice {
  readonly modules: readonly string[]
  readonly samples: number | null
  readonly delay: string
}

/** What a user would want to know about a patch that is valid. */
export interface Advice {
  readonly silent: readonly Fault[]
  readonly unconnected: readonly Fault[]
  readonly loops: readonly LoopAdvice[]
  readonly voices: number
  readonly loadPercent: number
}

/** Inputs without which a module does nothing, with what would help. */
const NEEDED: Readonly<Record<string, readonly (readonly [input: string, message: string])[]>> = {
  amplifier: [['in', 'nothing comes in; connect a sound']],
  filter: [['in', 'nothing comes in; connect a sound']],
  envelope: [['gate', 'never opens: nothing is connected to its gate. Connect notes.gate']],
  output: [['in', 'nothing is connected; nothing will be heard']],
  delayline: [['in', 'nothing comes in; connect a sound']],
}

const MILLISECOND = 48

/** Delay of a delay line's setting in samples at 48 kHz; null where a pitch or a cable decides. */
const delayOf = (flat: FlatPatch, plan: Plan, id: string): number | null => {
  const module = flat.modules.find((item) => item.id === id)
  if (!module || module.type !== 'delayline') return null
  const unit = String(module.params?.['unit'] ?? 'ms')
  const cabled = plan.params.some(
    (param) => param.modulated && (param.key === `${id}.time` || param.key === `${id}.trim`),
  )
  if (unit === 'pitch' || cabled) return null
  const time = Number(module.params?.['time'] ?? 250),
    trim = Number(module.params?.['trim'] ?? 0)
  return Math.max(1, (unit === 'samples' ? time : time * MILLISECOND) - trim)
}

/** Modules from which no way leads to an output, and outputs nothing leads to. */
const silentPaths = ({ modules, feeds }: FlatPatch): Fault[] => {
  const outputs = modules.filter((module) => module.type === 'output')
  if (outputs.length === 0)
    return [
      {
        place: 'modules',
        message: 'there is no output module: nothing can be heard. Add one and connect the last module to it',
      },
    ]
  const heard = new Set(outputs.map((module) => module.id))
  const waiting = [...heard]
  while (waiting.length > 0) {
    const id = waiting.pop()!
    for (const [target, list] of feeds) {
      if (!target.startsWith(`${id}.`)) continue
      for (const { module } of list)
        if (!heard.has(module)) {
          heard.add(module)
          waiting.push(module)
        }
    }
  }
  return modules
    .filter((module) => !heard.has(module.id))
    .map((module) => ({ place: module.id, message: 'leads to no output' }))
}

export const adviseOn = (patch: Patch, plan: Plan): Advice => {
  const flat = flatten(patch, CATALOGUE)
  const { modules, feeds } = flat
  const unconnected = modules.flatMap((module) =>
    (NEEDED[module.type] ?? [])
      .filter(
        ([input]) =>
          !feeds.has(`${module.id}.${input}`) &&
          !(module.type === 'envelope' && feeds.has(`${module.id}.trigger`)),
      )
      .map(([input, message]) => ({ place: `${module.id}.${input}`, message })),
  )
  const loops = plan.loops.map((loop) => {
    const lengths = loop.delays.map((id) => delayOf(flat, plan, id))
    const known = lengths.every((length) => length !== null)
    const total = lengths.reduce<number>((sum, length) => sum + (length ?? 0), 0) + loop.cut.length
    const delay =
      loop.delays.length === 0
        ? `1 sample of delay on ${loop.cut.join(', ')}`
        : known
          ? `${total} samples at 48 kHz`
          : 'its delay follows a pitch or a cable'
    return { modules: loop.modules, samples: known ? total : null, delay }
  })
  const load = plan.modules.reduce((sum, module) => {
    const bound = CATALOGUE.get(module.type)!.description.bound
    return sum + bound * module.voices * module.sides * 48000e-9
  }, 0)
  return {
    silent: silentPaths(flat),
    unconnected,
    loops,
    voices: Math.max(1, ...plan.modules.map((module) => module.voices)),
    loadPercent: (load * 100) / 2,
  }
}
