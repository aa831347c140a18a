/** The level the chart shows: the bench itself, or the group that is opened. */
import { groupsAround, levelPatch, marksOf, type Patch } from '@ypsilon/core'
import { focusPlaces } from '@ypsilon/core/layout/focus.ts'
import type { Place } from '@ypsilon/core/layout/free.ts'
import type { App } from './app.ts'

type Parts = Pick<App, 'document' | 'workspace'>

/** What the chart shows, as a patch. */
export const levelNow = ({ document, workspace }: Parts): Patch =>
  levelPatch(document.getState().patch, workspace.getState().group)

const known = new WeakMap<
  Patch,
  { readonly of: string; readonly places: ReadonlyMap<string, Place>; readonly shown: Patch }
>()

/** The level as it is drawn while a module is in focus: what is near it has come to it. */
const focusedOn = (level: Patch, of: string) => {
  let found = known.get(level)
  if (found?.of !== of) {
    const places = focusPlaces(level, of)
    const modules = level.modules.map((module) => {
      const place = places.get(module.id)
      return place ? { ...module, ...place } : module
    })
    found = { of, places, shown: { ...level, modules } }
    known.set(level, found)
  }
  return found
}

/** The level as the chart draws it. */
export const levelShown = (parts: Parts): Patch => {
  const level = levelNow(parts),
    { focus } = parts.workspace.getState()
  return focus === undefined ? level : focusedOn(level, focus).shown
}

/** Modules that are in focus; undefined where none is. */
export const inFocus = (level: Patch, focus: string | undefined): ReadonlyMap<string, Place> | undefined => {
  const places = focus === undefined ? undefined : focusedOn(level, focus).places
  return places && places.size > 0 ? places : undefined
}

/** Opens the group a module stands in, selects the module and brings it into view. */
export const goToModule = (app: App, id: string): void => {
  showModule(app, id)
  app.workspace.getState().select([id])
}

/** Opens the level a frame or note stands on, selects it and brings it into view. */
export const goToMark = (app: App, group: string | undefined, id: string): void => {
  app.workspace.getState().openGroup(group)
  const { frames, notes } = marksOf(levelNow(app)),
    mark = [...frames, ...notes].find((item) => item.id === id)
  if (mark) app.chart.showArea(mark)
  app.workspace.getState().selectMark(id)
}

/** A group that is gone, by undo or otherwise, is left for what it stood in. */
export const leaveLostGroups = ({ document, workspace }: Parts): (() => void) =>
  document.subscribe(({ patch, opened }, before) => {
    const { group, openGroup } = workspace.getState()
    if (opened !== before.opened) {
      openGroup(undefined)
      return
    }
    if (group === undefined || patch === before.patch || levelPatch(patch, group) !== patch) return
    const around = groupsAround(before.patch, group)
    openGroup(around.filter((outer) => levelPatch(patch, outer) !== patch).at(-1))
  })

/** Opens the group a module stands in, and brings the module into view. */
export const showModule = ({ document, workspace, chart }: App, id: string): void => {
  workspace.getState().openGroup(groupsAround(document.getState().patch, id).at(-1))
  chart.reveal(id)
}
