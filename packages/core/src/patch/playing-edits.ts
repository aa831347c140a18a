/** Edits of what moves a patch, and of what was moved. */
import type { Draft } from 'immer'
import { type Moves, NO_MOVES } from './document.ts'
import { effectivePatch } from './macros.ts'
import type { Overlay } from './overlay.ts'
import { setValueOf } from './targets.ts'
import type { Patch, PatchModule } from './types.ts'
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

/** Writes what was moved into the document: *Keep as set*. */
export const keepAsSet = (draft: D, { values, data, bypass }: Overlay): void => {
  const modules = new Map<string, Draft<PatchModule>>()
  const gather = (list: Draft<PatchModule>[]): void => {
    for (const module of list) {
      modules.set(module.id, module)
      if (module.inside) gather(module.inside.modules)
    }
  }
  gather(draft.modules)
  const cables = [
    draft.cables,
    ...[...modules.values()].flatMap(({ inside }) => (inside ? [inside.cables] : [])),
  ].flat()
  for (const [target, value] of values ?? []) {
    const id = target.slice(target.indexOf(':') + 1)
    const cable = target.startsWith('cable:') ? cables.find((item) => item.id === id) : undefined
    const macro = target.startsWith('macro:') ? draft.macros?.find((item) => item.id === id) : undefined
    if (cable) cable.amount = Number(value)
    if (macro) macro.value = Number(value)
    if (target.includes(':')) continue
    const [moduleId = '', name = ''] = splitTarget(target) ?? []
    const module = modules.get(moduleId)
    if (module) module.params = { ...module.params, [name]: value }
  }
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
