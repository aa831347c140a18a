import type { Draft } from 'immer'
import { CATALOGUE } from '../catalogue.ts'
import type { InputDescription, OutputDescription, ParamDescription, SignalKind } from '../describe/types.ts'
import { isSignalParam } from '../describe/slots.ts'
import { freshId } from './document.ts'
import { fieldFormulas, referencesOf } from './formulas.ts'
import { descriptionOf, faceOf } from './groups.ts'
import { type Level, levelBetween, levelIn, levelsOf, moduleIn, modulesAmong } from './levels.ts'
import { isPort, portFor, renamePort } from './ports.ts'
import type { Cable, Patch, PatchModule, ParamValue } from './types.ts'
import { nameAfresh } from './shared.ts'
import { everyCable, everyModule, portName, splitTarget } from './walk.ts'

type D = Draft<Patch>

export const moduleIds = (patch: Pick<Patch, 'modules'>): Set<string> =>
  new Set(everyModule(patch).map(({ module }) => module.id))

export const idFor = (patch: Pick<Patch, 'modules'>, type: string): string =>
  freshId(moduleIds(patch), CATALOGUE.get(type)?.description.short ?? type)

/** Ids for new cables, one after the other, free on every level. */
export const cableIds = (patch: Pick<Patch, 'modules' | 'cables'>): (() => string) => {
  const taken = new Set(everyCable(patch).map(({ cable }) => cable.id))
  let n = patch.cables.length
  return () => {
    do n += 1
    while (taken.has(`c${n}`))
    taken.add(`c${n}`)
    return `c${n}`
  }
}
export const freshCableId = (patch: Pick<Patch, 'modules' | 'cables'>): string => cableIds(patch)()

/** Gives every cable an id, so that its amount can be set while playing. */
export const withCableIds = (patch: Patch): Patch => {
  const cables = everyCable(patch)
  if (cables.every(({ cable }) => cable.id !== undefined)) return patch
  const taken = new Set(cables.map(({ cable }) => cable.id))
  let n = 1
  const named = (cable: Cable): Cable => {
    if (cable.id !== undefined) return cable
    while (taken.has(`c${n}`)) n += 1
    taken.add(`c${n}`)
    return { ...cable, id: `c${n}` }
  }
  const within = (modules: readonly PatchModule[]): readonly PatchModule[] =>
    modules.some(({ inside }) => inside)
      ? modules.map((module) =>
          module.inside
            ? {
                ...module,
                inside: {
                  ...module.inside,
                  cables: (module.inside.cables ?? []).map(named),
                  modules: within(module.inside.modules),
                },
              }
            : module,
        )
      : modules
  return { ...patch, cables: patch.cables.map(named), modules: within(patch.modules) }
}

/** Adds a module to the bench, or to a group; its id. */
export const addModule = (draft: D, type: string, x: number, y: number, group?: string): string => {
  const id = idFor(draft as Patch, type)
  levelIn(draft, group).modules.push({ id, type, x, y } as Draft<PatchModule>)
  nameAfresh(draft, [id])
  return id
}

type Kept = Record<string, unknown>
const withoutLost = <T extends Kept>(
  record: T | undefined,
  lost: (target: string) => boolean,
): T | undefined =>
  record && (Object.fromEntries(Object.entries(record).filter(([target]) => !lost(target))) as T)

/** Takes what is gone off everything that moves it: macros, snapshots, controllers. */
export const dropTargets = (draft: D, gone: (target: string) => boolean): void => {
  // Scopes and bypasses name modules as wholes.
  const lost = (target: string): boolean => gone(target) || (/^[^.:]+$/.test(target) && gone(`${target}.*`))
  for (const macro of draft.macros ?? [])
    macro.targets = (macro.targets ?? []).filter(({ param }) => !lost(param))
  for (const snapshot of draft.snapshots ?? [])
    for (const name of ['params', 'data', 'bypass', 'scope'] as const) {
      const kept =
        name === 'scope'
          ? snapshot.scope?.filter((target) => !lost(target))
          : withoutLost(snapshot[name] as Kept, lost)
      if (kept !== undefined) Object.assign(snapshot, { [name]: kept })
    }
  if (draft.controllers) draft.controllers = draft.controllers.filter(({ target }) => !lost(target))
  if (draft.vary?.limits) draft.vary.limits = withoutLost(draft.vary.limits, lost)!
}

const unset = (module: Draft<PatchModule>, param: string): void => {
  module.params = Object.fromEntries(Object.entries(module.params ?? {}).filter(([name]) => name !== param))
}

/** Modules with all that stands in them. */
const withInside = (draft: D, ids: ReadonlySet<string>): Set<string> => {
  const all = new Set(ids)
  for (const module of modulesAmong(draft, ids))
    for (const { module: inner } of everyModule({ modules: (module.inside?.modules ?? []) as PatchModule[] }))
      all.add(inner.id)
  return all
}

/** Ports of groups that go with the modules inside that they are, as cables name them. */
const portsGone = (draft: D, ids: ReadonlySet<string>): Set<string> =>
  new Set(
    everyModule(draft as Patch).flatMap(({ module: group }) =>
      (group.inside?.modules ?? [])
        .filter((inner) => ids.has(inner.id) && isPort(inner))
        .map((inner) => `${group.id}.${portName(inner)}`),
    ),
  )

/** What a group showed of what is gone is shown no more. */
const dropFaces = (draft: D, lost: (target: string) => boolean): void => {
  for (const { modules } of levelsOf(draft))
    for (const module of modules) {
      const { face } = module as { face?: { param?: unknown }[] }
      if (Array.isArray(face) && face.some(({ param }) => lost(String(param))))
        Object.assign(module, { face: face.filter(({ param }) => !lost(String(param))) })
    }
}

/** Removes modules, wherever they stand, with what is in them, their cables and everything that moves them. */
export const removeModules = (draft: D, named: ReadonlySet<string>): void => {
  const ids = withInside(draft, named),
    ports = portsGone(draft, ids)
  const gone = (end: string): boolean => ids.has(splitTarget(end)?.[0] ?? '') || ports.has(end)
  const cables = new Set<string | undefined>()
  for (const level of levelsOf(draft)) {
    const lost = level.cables.filter((cable) => gone(cable.from) || gone(cable.to))
    for (const { id } of lost) if (id !== undefined) cables.add(id)
    if (lost.length > 0) level.cables = level.cables.filter((cable) => !lost.includes(cable))
    if (level.modules.some(({ id }) => ids.has(id)))
      level.modules = level.modules.filter(({ id }) => !ids.has(id))
  }
  const lost = (target: string): boolean =>
    ids.has(splitTarget(target)?.[0] ?? '') || (target.startsWith('cable:') && cables.has(target.slice(6)))
  // A field whose formula names what is gone goes back to its default.
  for (const { module, param, value } of fieldFormulas(draft as Patch, CATALOGUE)) {
    if (referencesOf(value).some(lost)) unset(module as Draft<PatchModule>, param)
  }
  dropFaces(draft, lost)
  dropTargets(draft, lost)
}

export const removeCables = (draft: D, ids: ReadonlySet<string>): void => {
  for (const level of levelsOf(draft))
    if (level.cables.some(({ id }) => ids.has(id ?? '')))
      level.cables = level.cables.filter((cable) => !ids.has(cable.id ?? ''))
  dropTargets(draft, (target) => target.startsWith('cable:') && ids.has(target.slice(6)))
}

/** Sets a parameter of a module, wherever it stands. The name of a group's port is set with the cables that end there. */
export const setParam = (draft: D, id: string, name: string, value: ParamValue): void => {
  const module = moduleIn(draft, id)
  if (!module) return
  if (name === 'name' && isPort(module as PatchModule) && typeof value === 'string')
    renamePort(draft, id, value)
  else module.params = { ...module.params, [name]: value }
}

/** A sensible first amount for a cable of some kind on a target, so that it is heard and does no harm. */
export const sensibleAmount = (kind: SignalKind, target: ParamDescription | undefined): number => {
  if (target?.kind !== 'number') return 1
  if (target.log || target.time) return kind === 'pitch' ? 1 : kind === 'audio' ? 0.5 : 2
  switch (target.unit) {
    case 'ct':
      return 10
    case 'st':
      return 12
    case 'dB':
      return 12
    case '%':
      return (target.max - target.min) * 0.3
    default:
      return target.unit === 'oct' ? 1 : (target.max - target.min) * 0.1
  }
}

/** Kind of an output; control where there is none. */
export const outputKind = (module: PatchModule | undefined, port: string): SignalKind =>
  (module && descriptionOf(module)?.outputs.find(({ name }) => name === port)?.kind) ?? 'control'

/** Groups between a level and a module, the outermost first. */
const groupsBelow = (level: Level, id: string): Draft<PatchModule>[] => {
  const found: Draft<PatchModule>[] = []
  let { modules } = level
  while (!modules.some((module) => module.id === id)) {
    const next = modules.find(
      ({ inside }) =>
        inside &&
        everyModule({ modules: inside.modules as PatchModule[] }).some(({ module }) => module.id === id),
    )
    if (!next?.inside) return []
    found.push(next)
    modules = next.inside.modules
  }
  return found
}

/** An end of a cable as its level has it: what stands in groups is reached by their ports, but for rows that they show. */
const throughGroups = (draft: D, level: Level, end: string, side: 'in' | 'out', kind: SignalKind): string => {
  const groups = groupsBelow(level, splitTarget(end)?.[0] ?? '')
  const [outer] = groups
  if (!outer || faceOf(outer as PatchModule).some(({ param }) => param === end)) return end
  const fresh = cableIds(draft as Patch)
  return groups.reduceRight((inner, group) => portFor(draft, group.id, inner, side, kind, fresh), end)
}

/**
 * Connects. Where one end stands in a group that the other does not, the cable goes through a port of the group.
 *
 * @returns The cable's id, or undefined when the very cable is already there.
 */
export const connect = (draft: D, from: string, to: string, amount?: number): string | undefined => {
  const [source = '', port = ''] = splitTarget(from) ?? []
  const [target = '', name = ''] = splitTarget(to) ?? []
  const kind = outputKind(moduleIn(draft, source) as PatchModule | undefined, port)
  const level = levelBetween(draft, source, target)
  const [start, end] = [
    throughGroups(draft, level, from, 'out', kind),
    throughGroups(draft, level, to, 'in', kind),
  ]
  if (level.cables.some((cable) => cable.from === start && cable.to === end)) return undefined
  const id = freshCableId(draft as Patch)
  const type = moduleIn(draft, target)?.type ?? ''
  const value = amount ?? sensibleAmount(kind, CATALOGUE.get(type)?.params.get(name))
  level.cables.push({ id, from: start, to: end, ...(value === 1 ? {} : { amount: value }) })
  return id
}

const KIND_WEIGHT: Readonly<Record<string, number>> = {
  'audio audio': 4,
  'pitch pitch': 6,
  'gate gate': 6,
  'control control': 3,
  'pitch control': 1,
  'audio control': 1,
}

export interface Likely {
  readonly name: string
  readonly label: string
  readonly score: number
  readonly param?: ParamDescription
  readonly input?: InputDescription
}

/** Inputs and parameters of a module a source most likely goes to, best first. `taken` are already connected. */
export const likelyInputs = (
  kind: SignalKind,
  module: PatchModule,
  taken: ReadonlySet<string> = new Set(),
): Likely[] => {
  const description = descriptionOf(module)
  if (!description) return []
  const ports = description.inputs.map((input, index): Likely => ({
    name: input.name,
    label: input.label ?? input.name,
    input,
    score: (KIND_WEIGHT[`${kind} ${input.kind}`] ?? 0) + (taken.has(input.name) ? -1 : 0.5) - index * 0.05,
  }))
  const params = description.params.filter(isSignalParam).map((param, index): Likely => ({
    name: param.name,
    label: param.label,
    param,
    score:
      (kind === 'control' ? 2.4 : kind === 'audio' ? 0.2 : 0.5) -
      index * 0.03 -
      (description.front?.includes(param.name) ? 0 : 1),
  }))
  return [...ports, ...params].sort((a, b) => b.score - a.score)
}

/** The output of a module that most likely feeds something. */
export const mainOutput = (module: PatchModule): OutputDescription | undefined => {
  const description = descriptionOf(module)
  return (
    description?.outputs.find((port) => description.front?.includes(port.name)) ?? description?.outputs[0]
  )
}
