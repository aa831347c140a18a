/** Commands on frames and notes. */
import { addFrame, addNote, levelIn, marksOf, moveMark, type Patch, removeMark } from '@ypsilon/core'
import type { Draft } from 'immer'
import type { App } from '../app/app.ts'
import { levelNow } from '../app/level.ts'
import type { Command } from './command.ts'

const BENCH = ['bench'] as const

/** The level whose frames and notes are written to, as a draft of a patch. */
export const marksLevel = ({ workspace }: Pick<App, 'workspace'>, draft: Draft<Patch>): Draft<Patch> =>
  levelIn(draft, workspace.getState().group) as Draft<Patch>

/** The frame or note that is selected, if it is there still. */
export const chosenMark = (app: App): string | undefined => {
  const { mark } = app.workspace.getState(),
    { frames, notes } = marksOf(levelNow(app))
  return [...frames, ...notes].some(({ id }) => id === mark) ? mark : undefined
}

/** What was just made is in view, selected, and its text is typed. */
const write = (app: App, id: string): void => {
  const { frames, notes } = marksOf(levelNow(app)),
    mark = [...frames, ...notes].find((item) => item.id === id)
  if (mark) app.chart.showArea(mark)
  app.workspace.getState().selectMark(id)
  app.workspace.getState().rename(id)
}

const frameSelected = (app: App): void => {
  let id: string | undefined
  const ids = new Set(app.workspace.getState().selection)
  app.document.getState().change(`Frame ${ids.size === 1 ? 'a module' : `${ids.size} modules`}`, (draft) => {
    id = addFrame(marksLevel(app, draft), ids, '')
  })
  if (id === undefined) return
  write(app, id)
}

const noteHere = (app: App): void => {
  let id = ''
  const place = app.chart.centre()
  const isMade = app.document.getState().change('Add a note', (draft) => {
    id = addNote(marksLevel(app, draft), place, '')
  })
  if (!isMade) return
  write(app, id)
}

/** Takes the selected frame or note away; what a frame holds stays. */
export const removeChosenMark = (app: App): boolean => {
  const id = chosenMark(app)
  if (id === undefined) return false
  app.document.getState().change('Remove a mark', (draft) => {
    removeMark(marksLevel(app, draft), id)
  })
  app.workspace.getState().selectMark(undefined)
  return true
}

/** Moves the selected frame or note; moves that follow at once are one step. */
export const moveChosenMark = (app: App, dx: number, dy: number): boolean => {
  const id = chosenMark(app)
  if (id === undefined) return false
  app.document.getState().change(
    'Move a mark',
    (draft) => {
      moveMark(marksLevel(app, draft), id, dx, dy)
    },
    `move-${id}-${Math.floor(app.clock.now() / 1000)}`,
  )
  return true
}

export const MARK_COMMANDS: readonly Command[] = [
  {
    id: 'frame',
    label: 'Frame what is selected',
    group: 'Edit',
    keys: ['Ctrl+Alt+F'],
    views: BENCH,
    places: ['module'],
    can: (app) => app.workspace.getState().selection.length > 0 || 'Nothing is selected.',
    run: frameSelected,
  },
  {
    id: 'note',
    label: 'Add a note',
    group: 'Edit',
    keys: ['Ctrl+Alt+N'],
    views: BENCH,
    places: ['chart'],
    run: noteHere,
  },
]
