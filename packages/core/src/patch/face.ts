/** What a group shows on its own card of what is in it. */
import type { Draft } from 'immer'
import { CATALOGUE } from '../catalogue.ts'
import { type FaceRow, faceOf } from './groups.ts'
import { moduleIn } from './levels.ts'
import type { Patch, PatchModule } from './types.ts'
import { everyModule } from './walk.ts'

type D = Draft<Patch>

/** Rows that a group could show and does not: parameters of what stands in it, however deep. */
export const faceChoices = (
  group: PatchModule,
): { readonly target: string; readonly module: PatchModule; readonly label: string }[] => {
  const shown = new Set(faceOf(group).map(({ param }) => param))
  return everyModule({ modules: group.inside?.modules ?? [] }).flatMap(({ module }) =>
    (CATALOGUE.get(module.type)?.description.params ?? [])
      .map((param) => ({ target: `${module.id}.${param.name}`, module, label: param.label }))
      .filter(({ target }) => !shown.has(target)),
  )
}

/** What a group shows outside, in this order. */
export const setFace = (draft: D, group: string, rows: readonly FaceRow[]): void => {
  const module = moduleIn(draft, group)
  if (!module) return
  Object.assign(module, { face: rows.map((row, y) => ({ ...row, x: 0, y })) })
}

/** Shows a parameter of something in a group on the group's card, or hides it there. */
export const toggleFace = (draft: D, group: string, target: string): void => {
  const module = moduleIn(draft, group) as PatchModule | undefined
  if (!module) return
  const rows = faceOf(module)
  setFace(
    draft,
    group,
    rows.some(({ param }) => param === target)
      ? rows.filter(({ param }) => param !== target)
      : [...rows, { param: target }],
  )
}
