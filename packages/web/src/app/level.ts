/** The level the chart shows: the bench itself, or the group that is opened. */
import { groupsAround, levelPatch, type Patch } from '@ypsilon/core'
import type { App } from './app.ts'

type Parts = Pick<App, 'document' | 'workspace'>

/** What the chart shows, as a patch. */
export const levelNow = ({ document, workspace }: Parts): Patch =>
  levelPatch(document.getState().patch, workspace.getState().group)

/** Opens the group a module stands in, selects the module and brings it into view. */
export const goToModule = (app: App, id: string): void => {
  showModule(app, id)
  app.workspace.getState().select([id])
}

/** A group that is gone, by undo or otherwise, is left for what it stood in. */
export const leaveLostGroups = ({ document, workspace }: Parts): (() => void) =>
  document.subscribe(({ patch, opened }, before) => {
    const { group, openGroup } = workspace.getState()
    if (opened !== before.opened) openGroup(undefined)
    if (
      opened !== before.opened ||
      group === undefined ||
      patch === before.patch ||
      levelPatch(patch, group) !== patch
    )
      return
    const around = groupsAround(before.patch, group)
    openGroup(around.filter((outer) => levelPatch(patch, outer) !== patch).at(-1))
  })

/** Opens the group a module stands in, and brings the module into view. */
export const showModule = ({ document, workspace, chart }: App, id: string): void => {
  workspace.getState().openGroup(groupsAround(document.getState().patch, id).at(-1))
  chart.reveal(id)
}
