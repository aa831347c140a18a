/** Edits of what moves a patch, and of what was moved. */
import type { Draft } from 'immer'
import { type Moves, NO_MOVES } from './document.ts'
import { effectivePatch } from './macros.ts'
import type { Overlay } from './overlay.ts'
import { setValueOf } from './targets.ts'
import type { ParamValue, Patch, PatchModule } from './types.ts'
import { splitTarget } from './walk.ts'

type D = Draft<Patch>

/** Gives a target to another macro, with the range it had: one macro owns a target. */
export const moveTargetHere = (draft: D, target: string, macroId: string): void => {
  const here = draft.macros?.find(({ id }) => id === macroId)
  if (!here) return
  const before = draft.macros?.flatMap((macro) => macro.targets ?? []).find(({ param }) => param === target)
  for (const macro of draft.macros ?? [])
    if (macro.targets) macro.targets = macro.targets.filter(({ param }) => param !== target)
  ;(here.targets ??= []).push(before ? { ...before } : { param: target, from: 0, to: 1 })
}

/** Every module of a draft by id, groups opened. */
const modulesOf = (draft: D): Map<string, Draft<PatchModule>> => {
  const modules = new Map<string, Draft<PatchModule>>()
  const gather = (list: Draft<PatchModule>[]): void => {
    for (const module of list) {
      modules.set(module.id, module)
      if (module.inside) gather(module.inside.modules)
    }
  }
  gather(draft.modules)
  return modules
}

const keepValue = (
  draft: D,
  modules: ReadonlyMap<string, Draft<PatchModule>>,
  target: string,
  value: ParamValue,
): void => {
  const id = target.slice(target.indexOf(':') + 1)
  if (target.startsWith('cable:')) {
    const inner = [...modules.values()].flatMap(({ inside }) => inside?.cables ?? [])
    const cable = [...draft.cables, ...inner].find((item) => item.id === id)
    if (cable) cable.amount = Number(value)
  } else if (target.startsWith('macro:')) {
    const macro = draft.macros?.find((item) => item.id === id)
    if (macro) macro.value = Number(value)
  } else if (!target.includes(':')) {
    const [moduleId = '', name = ''] = splitTarget(target) ?? []
    const module = modules.get(moduleId)
    if (module) module.params = { ...module.params, [name]: value }
  }
}

/** Writes what was moved into the document: *Keep as set*. */
export const keepAsSet = (draft: D, { values, data, bypass }: Overlay): void => {
  const modules = modulesOf(draft)
  for (const [target, value] of values ?? []) keepValue(draft, modules, target, value)
  for (const [id, lists] of data ?? []) {
    const module = modules.get(id)
    if (module) Object.assign(module, { data: { ...lists } })
  }
  for (const [id, passes] of bypass ?? []) {
    const module = modules.get(id)
    if (module) module.bypass = passes
  }
}

/** What is still moved over a patch after *Keep as set*: fields that a macro owns and gives something else. */
export const leftMoved = (patch: Patch, moves: Moves): Moves => {
  const heard = effectivePatch(patch)
  const left = Object.entries(moves.values).filter(([target, value]) => setValueOf(heard, target) !== value)
  return { ...NO_MOVES, values: Object.fromEntries(left) }
}
