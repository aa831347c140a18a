/** Copy, cut and paste: between patches, tabs and as text. */
import { clipOf, clipText, faultText, GRID, pasteClip, readClip, settle, snap } from '@ypsilon/core'
import type { App } from '../app/app.ts'
import { levelNow } from '../app/level.ts'
import type { Command } from './command.ts'
import { removeSelected } from './edit.ts'

const BENCH = ['bench'] as const
/** Where copies come to stand beside what they were taken from. */
const OFFSET = 3 * GRID

const selected = (app: App): readonly string[] => app.workspace.getState().selection
const hasSelection = (app: App): true | string => selected(app).length > 0 || 'Nothing is selected.'

/** What is selected, as text; undefined where nothing is. */
export const copiedText = (app: App): string | undefined =>
  selected(app).length > 0 ? clipText(clipOf(levelNow(app), new Set(selected(app)))) : undefined

/** Takes away what was cut. */
export const cutSelected = (app: App): void => {
  removeSelected(app, 'Cut', 'cutting')
}

/** Pastes text, in the middle of what is seen, or beside the originals; false where it is none of ours. */
export const pasteText = (app: App, text: string): boolean => {
  const read = readClip(text)
  if (!read.ok) {
    if (read.faults.length === 0) return false
    app.notifier.error('What was copied cannot be pasted.', {
      description: read.faults.map(faultText).join('\n'),
    })
    return true
  }
  const { modules } = read.clip,
    { change } = app.document.getState(),
    { modules: here } = levelNow(app),
    centre = app.chart.centre()
  if (modules.length === 0) return true
  const isHere = modules.every(({ id, x, y }) => {
    const there = here.find((module) => module.id === id)
    return there?.x === x && there?.y === y
  })
  const left = Math.min(...modules.map(({ x = 0 }) => x)),
    top = Math.min(...modules.map(({ y = 0 }) => y))
  const [dx, dy] = isHere ? [OFFSET, OFFSET] : [snap(centre.x - left), snap(centre.y - top)]
  let made: string[] = []
  const isMade = change(
    modules.length === 1 ? 'Paste a module' : `Paste ${modules.length} modules`,
    (draft) => {
      made = pasteClip(draft, read.clip, dx, dy, app.workspace.getState().group)
      settle(draft, made)
    },
  )
  if (isMade) app.workspace.getState().select(made)
  return true
}

/** By menu and name the text goes through the browser's clipboard, which may say no. */
const write = async (app: App): Promise<void> => {
  const text = copiedText(app)
  if (text === undefined) return
  try {
    await navigator.clipboard.writeText(text)
  } catch {
    app.notifier.error('The browser does not let this page copy here. Press Ctrl+C instead.')
  }
}
const read = async (app: App): Promise<void> => {
  try {
    if (!pasteText(app, await navigator.clipboard.readText()))
      app.notifier.message('There is nothing to paste: copy modules first, or the text of a patch.')
  } catch {
    app.notifier.error('The browser does not let this page read what was copied. Press Ctrl+V instead.')
  }
}

export const CLIP_COMMANDS: readonly Command[] = [
  {
    id: 'copy',
    label: 'Copy',
    group: 'Edit',
    keys: ['Ctrl+C'],
    isNative: true,
    views: BENCH,
    places: ['module'],
    can: hasSelection,
    run: (app) => void write(app),
  },
  {
    id: 'cut',
    label: 'Cut',
    group: 'Edit',
    keys: ['Ctrl+X'],
    isNative: true,
    views: BENCH,
    places: ['module'],
    can: hasSelection,
    run: (app) => {
      void write(app)
      cutSelected(app)
    },
  },
  {
    id: 'paste',
    label: 'Paste',
    group: 'Edit',
    keys: ['Ctrl+V'],
    isNative: true,
    views: BENCH,
    places: ['chart'],
    run: (app) => void read(app),
  },
]
