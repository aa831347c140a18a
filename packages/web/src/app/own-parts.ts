/** What is kept of patches to be used again: sections, modules of one's own, settings. */
import {
  clipOf,
  labelOf,
  moduleIn,
  type NewEnds,
  pasteClip,
  patchIndex,
  type PatchModule,
  setParam,
  settle,
  wireNew,
} from '@ypsilon/core'
import { asOwn, copiesOf, ownOf, replaceInside } from '@ypsilon/core/patch/own-modules.ts'
import type { Draft } from 'immer'
import { failureWords } from '../kept/database.ts'
import { keepPart, type PartContent, readPart, rewritePart, type Settings } from '../kept/parts.ts'
import type { Head } from '../kept/records.ts'
import type { App } from './app.ts'
import { levelNow } from './level.ts'

/** What lists know of something that is kept. */
export type { Head } from '../kept/records.ts'

/** Says when something cannot be kept, and that it has been. */
const keeping = async (app: App, name: string, keep: () => Promise<unknown>): Promise<boolean> => {
  try {
    await keep()
    await app.documents.getState().refresh()
    app.notifier.message(`${name} is kept`)
    return true
  } catch (error) {
    app.notifier.error(`${name} could not be kept: ${failureWords(error)}.`, {
      description: 'Copy the modules (Ctrl+C) and paste them into a text file to hold on to them.',
    })
    return false
  }
}

/** Keeps what is selected as a section. */
export const keepSection = (app: App, name: string): Promise<boolean> => {
  const clip = clipOf(levelNow(app), new Set(app.workspace.getState().selection))
  return keeping(app, name, () => keepPart(app.kept.box, 'section', name, app.clock.now(), () => ({ clip })))
}

const clipOfOwn = (app: App, group: PatchModule, id: string, name: string): PartContent => {
  const own = asOwn(group, id, name)
  return { clip: clipOf({ ...levelNow(app), modules: [own], cables: [] }, new Set([own.id])) }
}

const groupNow = ({ document }: App, id: string): PatchModule | undefined =>
  patchIndex(document.getState().patch).module.get(id)

/** Keeps a group as a module of one's own; one that is kept already is kept anew under the same id. */
export const keepModule = (app: App, id: string, name: string): Promise<boolean> => {
  const group = groupNow(app, id)
  if (!group) return Promise.resolve(false)
  const { box } = app.kept,
    now = app.clock.now()
  return keeping(app, name, async () => {
    const known = ownOf(group)
    const isRewritten =
      known !== undefined && (await rewritePart(box, known, name, now, clipOfOwn(app, group, known, name)))
    const own = isRewritten
      ? known
      : await keepPart(box, 'module', name, now, (fresh) => clipOfOwn(app, group, fresh, name))
    if (own === known && group.label === name) return
    app.document.getState().change(`Keep ${name}`, (draft) => {
      const module = moduleIn(draft, id)
      if (module) Object.assign(module, { own, label: name })
    })
  })
}

/** All copies of a module of one's own in the patch become like this one. */
export const replaceCopies = ({ document, notifier }: App, id: string): void => {
  const { patch, change } = document.getState(),
    group = patchIndex(patch).module.get(id),
    own = group && ownOf(group)
  if (!group || own === undefined) return
  const others = copiesOf(patch, own).filter((copy) => copy !== id)
  const isDone = change(`Make ${others.length} like ${labelOf(patch, id)}`, (draft) => {
    for (const copy of others) replaceInside(draft, copy, group)
  })
  if (isDone)
    notifier.message(
      `${others.length === 1 ? 'One copy is' : `${others.length} copies are`} like this one now`,
    )
}

/** Where a part comes to stand, and what it is wired to. */
export interface Landing extends NewEnds {
  readonly x: number
  readonly y: number
}

/** What is kept, or undefined after it was said why it cannot be read. */
const contentOf = async (app: App, { id, name }: Head): Promise<PartContent | undefined> => {
  try {
    const content = await readPart(app.kept.box, id)
    if (typeof content !== 'string') return content
    app.notifier.error(`${name} cannot be read: ${content}.`)
  } catch (error) {
    app.notifier.error(`${name} cannot be read: ${failureWords(error)}.`)
  }
  return undefined
}

/** Puts a section or a module of one's own into the patch; what came is selected. */
export const insertPart = async (app: App, head: Head, landing: Landing): Promise<void> => {
  const content = await contentOf(app, head)
  if (!content || !('clip' in content)) return
  const { clip } = content,
    { workspace, document } = app
  const left = Math.min(...clip.modules.map(({ x = 0 }) => x)),
    top = Math.min(...clip.modules.map(({ y = 0 }) => y))
  let came: string[] = []
  const isIn = document.getState().change(`Add ${head.name}`, (draft) => {
    came = pasteClip(draft, clip, landing.x - left, landing.y - top, workspace.getState().group)
    settle(draft, came)
    if (came.length === 1) wireNew(draft, came[0]!, landing)
  })
  if (!isIn) return
  workspace.getState().select(came)
  if (came[0] !== undefined) app.chart.reveal(came[0])
}

/** Settings of a module as they stand. */
const settingsOf = ({ type, params = {}, data = {} }: PatchModule): Settings => ({ type, params, data })

/** Keeps a module's settings under a name. */
export const keepSettings = (app: App, id: string, name: string): Promise<boolean> => {
  const module = groupNow(app, id)
  if (!module) return Promise.resolve(false)
  const settings = settingsOf(module)
  return keeping(app, name, () =>
    keepPart(app.kept.box, 'preset', name, app.clock.now(), () => ({ settings }), module.type),
  )
}

/** Gives a module settings that are kept; what they do not say goes back to its default. */
export const applySettings = async (app: App, head: Head, id: string): Promise<void> => {
  const content = await contentOf(app, head)
  if (!content || !('settings' in content)) return
  const { params, data } = content.settings
  app.document.getState().change(`Preset ${head.name}`, (draft) => {
    const module = moduleIn(draft, id)
    if (!module) return
    module.params = {}
    for (const [name, value] of Object.entries(params)) setParam(draft, id, name, value)
    if (Object.keys(data).length > 0 || module.data)
      module.data = JSON.parse(JSON.stringify(data)) as Draft<Settings['data']>
  })
}

/** Puts something kept aside; it is there for thirty days more. */
export const putPartAside = async (app: App, { id, name }: Head): Promise<void> => {
  try {
    await app.kept.putAside(id)
    await app.documents.getState().refresh()
    app.notifier.message(`${name} is put aside`, {
      action: {
        label: 'Take it back',
        onClick: () => {
          void app.kept.takeBack(id).then(() => app.documents.getState().refresh())
        },
      },
    })
  } catch (error) {
    app.notifier.error(`${name} could not be put aside: ${failureWords(error)}.`)
  }
}
