import type { Draft } from 'immer'
import { CATALOGUE } from '../catalogue.ts'
import type { InputDescription, OutputDescription, ParamDescription, SignalKind } from '../describe/types.ts'
import { isSignalParam } from '../describe/slots.ts'
import { freshId } from './document.ts'
import { fieldFormulas, isFormula, referencesOf, renamedFormula } from './formulas.ts'
import { nameAfresh } from './shared.ts'
import type { Cable, Patch, PatchModule, ParamValue } from './types.ts'
import { endsOf, everyModule, splitTarget } from './walk.ts'

type D = Draft<Patch>

export const moduleIds = (patch: Pick<Patch, 'modules'>): Set<string> =>
  new Set(everyModule(patch).map(({ module }) => module.id))

export const idFor = (patch: Pick<Patch, 'modules'>, type: string): string =>
  freshId(moduleIds(patch), CATALOGUE.get(type)?.description.short ?? type)

export const freshCableId = (patch: Pick<Patch, 'cables'>): string => {
  const taken = new Set(patch.cables.map((cable) => cable.id))
  let n = patch.cables.length + 1
  while (taken.has(`c${n}`)) n += 1
  return `c${n}`
}

/** Gives every cable an id, so that its amount can be set while playing. */
export const withCableIds = (patch: Patch): Patch => {
  if (patch.cables.every((cable) => cable.id !== undefined)) return patch
  const cables: Cable[] = []
  const taken = new Set(patch.cables.map((cable) => cable.id))
  let n = 1
  for (const cable of patch.cables) {
    if (cable.id !== undefined) {
      cables.push(cable)
      continue
    }
    while (taken.has(`c${n}`)) n += 1
    taken.add(`c${n}`)
    cables.push({ ...cable, id: `c${n}` })
  }
  return { ...patch, cables }
}

export const addModule = (draft: D, type: string, x: number, y: number): string => {
  const id = idFor(draft as Patch, type)
  draft.modules.push({ id, type, x, y } as Draft<PatchModule>)
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
const dropTargets = (draft: D, gone: (target: string) => boolean): void => {
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

export const removeModules = (draft: D, ids: ReadonlySet<string>): void => {
  const gone = (end: string): boolean => ids.has(splitTarget(end)?.[0] ?? '')
  const cables = new Set(
    draft.cables.filter((cable) => gone(cable.from) || gone(cable.to)).map((cable) => cable.id),
  )
  draft.modules = draft.modules.filter((module) => !ids.has(module.id))
  draft.cables = draft.cables.filter((cable) => !cables.has(cable.id))
  const lost = (target: string): boolean =>
    ids.has(splitTarget(target)?.[0] ?? '') || (target.startsWith('cable:') && cables.has(target.slice(6)))
  // A field whose formula names what is gone goes back to its default.
  for (const { module, param, value } of fieldFormulas(draft as Patch, CATALOGUE)) {
    if (referencesOf(value).some(lost)) unset(module as Draft<PatchModule>, param)
  }
  dropTargets(draft, lost)
}

export const removeCables = (draft: D, ids: ReadonlySet<string>): void => {
  draft.cables = draft.cables.filter((cable) => !ids.has(cable.id ?? ''))
  dropTargets(draft, (target) => target.startsWith('cable:') && ids.has(target.slice(6)))
}

export const setParam = (draft: D, id: string, name: string, value: ParamValue): void => {
  const module = draft.modules.find((item) => item.id === id)
  if (!module) return
  module.params = { ...module.params, [name]: value }
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

/** Connects; the cable's id, or undefined when the very cable is already there. */
export const connect = (draft: D, from: string, to: string, amount?: number): string | undefined => {
  if (draft.cables.some((cable) => cable.from === from && cable.to === to)) return undefined
  const id = freshCableId(draft as Patch)
  const [source = '', port = ''] = splitTarget(from) ?? []
  const [target = '', name = ''] = splitTarget(to) ?? []
  const type = (module: string): string => draft.modules.find((item) => item.id === module)?.type ?? ''
  const kind = CATALOGUE.get(type(source))?.outputs.get(port)?.kind ?? 'control'
  const value = amount ?? sensibleAmount(kind, CATALOGUE.get(type(target))?.params.get(name))
  draft.cables.push({ id, from, to, ...(value === 1 ? {} : { amount: value }) })
  return id
}

/** Copies modules with the wiring between them (and, if wished, the wiring into them); the new ids. */
export const duplicate = (
  draft: D,
  ids: readonly string[],
  offset: number,
  withIncoming = false,
): string[] => {
  const renamed = new Map<string, string>()
  for (const id of ids) {
    const module = draft.modules.find((item) => item.id === id)
    if (!module || module.inside) continue
    const copy = JSON.parse(JSON.stringify(module)) as Draft<PatchModule>
    copy.id = idFor(draft as Patch, module.type)
    copy.x = (module.x ?? 0) + offset
    copy.y = (module.y ?? 0) + offset
    draft.modules.push(copy)
    renamed.set(id, copy.id)
  }
  for (const id of renamed.values()) {
    const params = draft.modules.find((item) => item.id === id)?.params
    for (const [name, value] of Object.entries(params ?? {}))
      if (isFormula(value)) Object.assign(params!, { [name]: renamedFormula(value, renamed) })
  }
  for (const cable of [...draft.cables]) copyCable(draft, cable, renamed, withIncoming)
  nameAfresh(draft, [...renamed.values()])
  return [...renamed.values()]
}

/** The cable between copies, or from outside into one; none where it ends on no copy. */
const copyCable = (
  draft: D,
  cable: Draft<Cable>,
  renamed: ReadonlyMap<string, string>,
  withIncoming: boolean,
): void => {
  const { fromModule, fromPort, toModule, toPort } = endsOf(cable as Cable)
  const target = renamed.get(toModule)
  const source = renamed.get(fromModule) ?? (withIncoming ? fromModule : undefined)
  if (target === undefined || source === undefined) return
  draft.cables.push({
    ...cable,
    id: freshCableId(draft as Patch),
    from: `${source}.${fromPort}`,
    to: `${target}.${toPort}`,
  })
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
  const entry = CATALOGUE.get(module.type)
  if (!entry) return []
  const ports = entry.description.inputs.map((input, index): Likely => ({
    name: input.name,
    label: input.label ?? input.name,
    input,
    score: (KIND_WEIGHT[`${kind} ${input.kind}`] ?? 0) + (taken.has(input.name) ? -1 : 0.5) - index * 0.05,
  }))
  const params = entry.description.params.filter(isSignalParam).map((param, index): Likely => ({
    name: param.name,
    label: param.label,
    param,
    score:
      (kind === 'control' ? 2.4 : kind === 'audio' ? 0.2 : 0.5) -
      index * 0.03 -
      (entry.description.front?.includes(param.name) ? 0 : 1),
  }))
  return [...ports, ...params].sort((a, b) => b.score - a.score)
}

/** The output of a module that most likely feeds something. */
export const mainOutput = (module: PatchModule): OutputDescription | undefined => {
  const description = CATALOGUE.get(module.type)?.description
  return (
    description?.outputs.find((port) => description.front?.includes(port.name)) ?? description?.outputs[0]
  )
}
