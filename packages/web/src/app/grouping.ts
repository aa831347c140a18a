/** What the commands on groups do. */
import { labelOf, settle } from '@ypsilon/core'
import { dissolveGroup, makeGroup } from '@ypsilon/core/patch/grouping.ts'
import type { App } from './app.ts'

/** Makes a group of what is selected; its name is typed at once. */
export const groupSelected = ({ workspace, document }: App): void => {
  const ids = new Set(workspace.getState().selection)
  let made: string | undefined
  const isMade = document
    .getState()
    .change(`Group ${ids.size} module${ids.size === 1 ? '' : 's'}`, (draft) => {
      made = makeGroup(draft, ids)
      if (made !== undefined) settle(draft, [made])
    })
  if (!isMade || made === undefined) return
  workspace.getState().select([made])
  workspace.getState().rename(made)
}

/** Takes the selected group apart; what was in it is selected. */
export const dissolveSelected = ({ workspace, document, chart }: App): void => {
  const [id] = workspace.getState().selection
  if (id === undefined) return
  const { patch, change } = document.getState()
  let came: readonly string[] | undefined
  const isDone = change(`Take ${labelOf(patch, id)} apart`, (draft) => {
    came = dissolveGroup(draft, id)
    if (came) settle(draft, came)
  })
  if (!isDone || !came) return
  workspace.getState().select(came)
  // What was in it may have found room only farther off.
  chart.fit()
}
