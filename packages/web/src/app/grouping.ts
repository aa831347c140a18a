/** What the commands on groups do. */
import { labelOf, levelWith, nearestFree, type Patch, type PatchModule, type Rect } from '@ypsilon/core'
import { cardRect } from '@ypsilon/core/layout/free.ts'
import { dissolveGroup, makeGroup } from '@ypsilon/core/patch/grouping.ts'
import type { Draft } from 'immer'
import type { App } from './app.ts'

/** The rectangle around some cards. */
const around = (rects: readonly Rect[]): Rect => {
  const x = Math.min(...rects.map((rect) => rect.x)),
    y = Math.min(...rects.map((rect) => rect.y))
  return {
    x,
    y,
    width: Math.max(...rects.map((rect) => rect.x + rect.width)) - x,
    height: Math.max(...rects.map((rect) => rect.y + rect.height)) - y,
  }
}

/** Moves what has come to a level, as a whole, to where it covers nothing that stands there. */
export const settle = (draft: Draft<Patch>, ids: ReadonlySet<string>): void => {
  const level = [...ids].map((id) => levelWith(draft, id)).find((found) => found !== undefined)
  if (!level) return
  const rectOf = (module: Draft<PatchModule>): Rect =>
    cardRect(level as unknown as Patch, module as PatchModule)
  const came = level.modules.filter(({ id }) => ids.has(id)),
    others = level.modules.filter(({ id }) => !ids.has(id)).map(rectOf)
  if (came.length === 0) return
  const rect = around(came.map(rectOf)),
    place = nearestFree(others, rect)
  for (const module of came) {
    module.x = (module.x ?? 0) + place.x - rect.x
    module.y = (module.y ?? 0) + place.y - rect.y
  }
}

/** Makes a group of what is selected; its name is typed at once. */
export const groupSelected = ({ workspace, document }: App): void => {
  const ids = new Set(workspace.getState().selection)
  let made: string | undefined
  const isMade = document
    .getState()
    .change(`Group ${ids.size} module${ids.size === 1 ? '' : 's'}`, (draft) => {
      made = makeGroup(draft, ids)
      if (made !== undefined) settle(draft, new Set([made]))
    })
  if (!isMade || made === undefined) return
  workspace.getState().select([made])
  workspace.getState().rename(made)
}

/** Takes the selected group apart; what was in it is selected. */
export const dissolveSelected = ({ workspace, document }: App): void => {
  const [id] = workspace.getState().selection
  if (id === undefined) return
  const { patch, change } = document.getState()
  let came: readonly string[] | undefined
  const isDone = change(`Take ${labelOf(patch, id)} apart`, (draft) => {
    came = dissolveGroup(draft, id)
    if (came) settle(draft, new Set(came))
  })
  if (isDone && came) workspace.getState().select(came)
}
