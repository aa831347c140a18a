/** Frames and notes on the canvas: they say what belongs together and why, and sound in no way. Kept in the patch's view. */
import type { Draft } from 'immer'
import { freshId } from '../patch/document.ts'
import type { Patch } from '../patch/types.ts'
import { boundsOf, cardRect, nearestFree, type Place, type Rect } from './free.ts'
import { GRID, snap } from './grid.ts'

export interface Frame extends Rect {
  readonly id: string
  readonly title: string
}
export interface CanvasNote extends Rect {
  readonly id: string
  readonly text: string
}

/** What a frame leaves free around what it was made for: its title stands above. */
export const AROUND = 2 * GRID,
  TITLE = 3 * GRID
/** Least size of both. */
export const LEAST_FRAME = 8 * GRID
const NOTE = { width: 16 * GRID, height: 6 * GRID }

type D = Draft<Patch>

const isNumber = (value: unknown): value is number => typeof value === 'number' && Number.isFinite(value)
const isRect = (value: object): value is Rect =>
  (['x', 'y', 'width', 'height'] as const).every((name) => isNumber((value as Partial<Rect>)[name]))

const listed = <T extends Rect>(
  patch: Patch,
  name: 'frames' | 'notes',
  text: 'title' | 'text',
): readonly T[] => {
  const list = (patch['view'] as Readonly<Record<string, unknown>> | undefined)?.[name]
  if (!Array.isArray(list)) return []
  // What another version has written otherwise is kept, and not shown.
  return (list as unknown[]).filter(
    (item): item is T =>
      typeof item === 'object' &&
      item !== null &&
      isRect(item) &&
      typeof (item as { id?: unknown }).id === 'string' &&
      typeof (item as unknown as Record<string, unknown>)[text] === 'string',
  )
}

interface Marks {
  readonly frames: readonly Frame[]
  readonly notes: readonly CanvasNote[]
}

/** Read anew, as in a draft that is being written. */
const readMarks = (patch: Patch): Marks => ({
  frames: listed<Frame>(patch, 'frames', 'title'),
  notes: listed<CanvasNote>(patch, 'notes', 'text'),
})

const known = new WeakMap<object, Marks>()
const NOTHING: Marks = { frames: [], notes: [] }

/** Frames and notes of a finished patch, the same lists for the same view. */
export const marksOf = (patch: Patch): Marks => {
  const view = patch['view']
  if (typeof view !== 'object' || view === null) return NOTHING
  let found = known.get(view)
  if (!found) {
    found = readMarks(patch)
    known.set(view, found)
  }
  return found
}

/** As it stands in the file: what another version wrote may stand among it. */
interface Item {
  readonly id?: unknown
}
type Written = Record<'frames' | 'notes', (Item | null)[]>

/** The lists to be written to; they come with the first mark. */
const written = (draft: D): Written => {
  const view = (draft['view'] ?? {}) as Partial<Written>
  if (!Array.isArray(view.frames)) view.frames = []
  if (!Array.isArray(view.notes)) view.notes = []
  draft['view'] = view
  return view as Written
}
const freshMark = (draft: D, short: string): string => {
  const { frames, notes } = written(draft)
  return freshId(new Set([...frames, ...notes].map((item) => String(item?.id))), short)
}

/** Is the middle of one rectangle in another? */
export const isWithin = (inner: Rect, outer: Rect): boolean => {
  const x = inner.x + inner.width / 2,
    y = inner.y + inner.height / 2
  return x >= outer.x && x <= outer.x + outer.width && y >= outer.y && y <= outer.y + outer.height
}

/** Modules whose middle is in a frame. */
export const modulesIn = (patch: Patch, frame: Rect): string[] =>
  patch.modules.filter((module) => isWithin(cardRect(patch, module), frame)).map(({ id }) => id)

/** The rectangle around some modules. */
export const aroundModules = (patch: Patch, ids: ReadonlySet<string>): Rect | undefined => {
  const rects = patch.modules.filter(({ id }) => ids.has(id)).map((module) => cardRect(patch, module))
  return rects.length === 0 ? undefined : boundsOf(rects)
}

/** A frame around a rectangle, with room for its title. */
export const framing = ({ x, y, width, height }: Rect): Rect => ({
  x: snap(x - AROUND),
  y: snap(y - AROUND - TITLE),
  width: snap(width + 2 * AROUND),
  height: snap(height + 2 * AROUND + TITLE),
})

/** Frames some modules; its id, or undefined where there is none of them. */
export const addFrame = (draft: D, ids: ReadonlySet<string>, title: string): string | undefined => {
  const around = aroundModules(draft as Patch, ids)
  if (!around) return undefined
  const id = freshMark(draft, 'frame')
  written(draft).frames.push({ id, title, ...framing(around) } as Item)
  return id
}

/** Puts a note where nothing stands, as near to a place as can be. */
export const addNote = (draft: D, place: Place, text: string): string => {
  const patch = draft as Patch,
    id = freshMark(draft, 'note')
  const taken = [...patch.modules.map((module) => cardRect(patch, module)), ...readMarks(patch).notes]
  written(draft).notes.push({ id, text, ...NOTE, ...nearestFree(taken, { ...place, ...NOTE }) } as {
    id: string
  })
  return id
}

export const removeMark = (draft: D, id: string): void => {
  const { frames, notes } = written(draft)
  const view = draft['view'] as Written
  view.frames = frames.filter((frame) => frame?.id !== id)
  view.notes = notes.filter((note) => note?.id !== id)
}

/** What a frame or note is called or says. */
export const writeMark = (draft: D, id: string, text: string): void => {
  const { frames, notes } = written(draft)
  const frame = frames.find((item) => item?.id === id),
    note = notes.find((item) => item?.id === id)
  if (frame) Object.assign(frame, { title: text })
  if (note) Object.assign(note, { text })
}

/** Puts frames and notes at other places, in other sizes. */
export const placeMarks = (draft: D, rects: ReadonlyMap<string, Rect>): void => {
  if (rects.size === 0) return
  const { frames, notes } = written(draft)
  for (const mark of [...frames, ...notes]) Object.assign(mark ?? {}, rects.get(String(mark?.id)))
}

export const sizeMark = (draft: D, id: string, width: number, height: number): void => {
  const { frames, notes } = written(draft)
  const mark = [...frames, ...notes].find((item) => item?.id === id)
  if (mark)
    Object.assign(mark, {
      width: Math.max(LEAST_FRAME, snap(width)),
      height: Math.max(LEAST_FRAME / 2, snap(height)),
    })
}

/** What goes along with a frame or note that is moved: modules, frames and notes in it. */
export const carriedBy = (
  patch: Patch,
  id: string,
): { readonly modules: readonly string[]; readonly marks: readonly string[] } => {
  const { frames, notes } = readMarks(patch)
  const frame = frames.find((item) => item.id === id)
  if (!frame) return { modules: [], marks: [id] }
  const inside = [...frames, ...notes].filter((item) => item.id !== id && isWithin(item, frame))
  return { modules: modulesIn(patch, frame), marks: [id, ...inside.map((item) => item.id)] }
}

/** Moves a frame with what is in it, or a note. */
export const moveMark = (draft: D, id: string, dx: number, dy: number): void => {
  const { modules, marks } = carriedBy(draft as Patch, id)
  const { frames, notes } = written(draft)
  for (const module of draft.modules)
    if (modules.includes(module.id)) {
      module.x = (module.x ?? 0) + dx
      module.y = (module.y ?? 0) + dy
    }
  for (const mark of [...frames, ...notes] as unknown as ({ id: string; x: number; y: number } | null)[])
    if (mark && marks.includes(mark.id)) {
      mark.x += dx
      mark.y += dy
    }
}
