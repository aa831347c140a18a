/** Tidy of a patch: what stands in a frame is laid out within it, and the frame among the others as one of them. */
import { patchIndex } from '../patch/index.ts'
import type { Patch } from '../patch/types.ts'
import { type Block, contracted, modulesOf, type Part, partsOf } from './blocks.ts'
import { boundsOf, cardRect, nearestFree, type Place, type Rect } from './free.ts'
import { snap } from './grid.ts'
import { type Kernel, layersIn, questionOf } from './layers.ts'
import type { Room } from './lines.ts'
import { AROUND, isWithin, marksOf, TITLE } from './marks.ts'
import { type Sketch, sketchOf } from './sketch.ts'
import { tidyPlaces, up } from './tidy.ts'

/** New places of modules, and of frames and notes with their sizes, by id. */
export interface Tidied {
  readonly modules: ReadonlyMap<string, Place>
  readonly marks: ReadonlyMap<string, Rect>
}

/** What stays the same while a patch is laid out. */
interface Work {
  readonly patch: Patch
  /** All that is laid out, card by card. */
  readonly sketch: Sketch
  readonly room: Room
  readonly kernel: Kernel
}

/** A frame that has been laid out for itself: where everything in it stands, from its corner. */
interface Framed extends Block {
  readonly marks: ReadonlyMap<string, Rect>
}

const movedBy = <P extends Place>(places: ReadonlyMap<string, P>, { x, y }: Place): [string, P][] =>
  [...places].map(([id, place]) => [id, { ...place, x: place.x + x, y: place.y + y }])

const partSketch = ({ sketch }: Work, { modules }: Part, frames: readonly Framed[]): Sketch =>
  contracted(sketch, new Set(modules), frames)

/** A part's modules and frames where a layout puts them; its first corner at a place. */
const spread = (
  sketch: Sketch,
  frames: readonly Framed[],
  places: readonly Place[],
  corner: Place,
): Tidied => {
  const { x, y } = boundsOf(sketch.nodes.map((node, at) => ({ ...node, ...places[at]! })))
  const inside = new Map(frames.map((frame) => [frame.id, frame])),
    modules = new Map<string, Place>(),
    marks = new Map<string, Rect>()
  sketch.nodes.forEach(({ id, width, height }, at) => {
    const place = { x: places[at]!.x - x + corner.x, y: places[at]!.y - y + corner.y },
      // A frame may be called like a module: frames come last.
      frame = at >= sketch.nodes.length - frames.length ? inside.get(id) : undefined
    if (!frame) {
      modules.set(id, place)
      return
    }
    marks.set(id, { ...place, width, height })
    for (const [module, there] of movedBy(frame.places, place)) modules.set(module, there)
    for (const [mark, there] of movedBy(frame.marks, place)) marks.set(mark, there)
  })
  return { modules, marks }
}

/** What nothing is wired to stays beside what it stood nearest to, where nothing else stands. */
const withLoose = ({ patch, sketch }: Work, part: Part, { modules, marks }: Tidied): Tidied => {
  if (part.loose.length === 0 || modules.size === 0) return { modules, marks }
  const { frames, notes } = marksOf(patch),
    before = new Map([...frames, ...notes].map((mark) => [mark.id, mark] as const)),
    sizes = new Map(sketch.nodes.map((node) => [node.id, node]))
  const stood = [
    ...part.modules.map((id) => ({
      old: cardRect(patch, patchIndex(patch).module.get(id)!),
      now: { ...sizes.get(id)!, ...modules.get(id)! },
    })),
    ...part.parts.map(({ frame = '' }) => ({ old: before.get(frame)!, now: marks.get(frame)! })),
  ]
  const all = new Map(marks),
    taken: Rect[] = stood.map(({ now }) => now)
  for (const id of part.loose) {
    const { x, y, width, height } = before.get(id)!
    const farness = ({ old }: (typeof stood)[number]): number =>
      Math.hypot(old.x + old.width / 2 - x - width / 2, old.y + old.height / 2 - y - height / 2)
    const { old, now } = stood.reduce((best, next) => (farness(next) < farness(best) ? next : best))
    const wanted = { x: now.x + x - old.x, y: now.y + y - old.y, width, height }
    const rect = { ...wanted, ...nearestFree(taken, wanted) }
    taken.push(rect)
    all.set(id, rect)
  }
  return { modules, marks: all }
}

/** Lays out a part for itself: what its frames hold first. */
const laidPart = async (
  work: Work,
  part: Part,
): Promise<{
  readonly sketch: Sketch
  readonly frames: readonly Framed[]
  readonly places: readonly Place[]
}> => {
  const frames: Framed[] = []
  for (const inner of part.parts) frames.push(await framedPart(work, inner))
  const sketch = partSketch(work, part, frames)
  // A part of the patch has as large a part of the window.
  const share = Math.sqrt(Math.min(1, modulesOf(part).length / work.sketch.nodes.length)),
    room = { width: work.room.width * share, height: work.room.height * share }
  const layers = layersIn(sketch, await work.kernel(questionOf(sketch)))
  return { sketch, frames, places: tidyPlaces(sketch, layers, room) }
}

const framedPart = async (work: Work, part: Part): Promise<Framed> => {
  const { sketch, frames, places } = await laidPart(work, part)
  const { modules, marks } = withLoose(work, part, spread(sketch, frames, places, { x: 0, y: 0 }))
  const sizes = new Map(work.sketch.nodes.map((node) => [node.id, node]))
  const bounds = boundsOf([
    ...[...modules].map(([id, place]) => ({ ...sizes.get(id)!, ...place })),
    ...marks.values(),
  ])
  const by = { x: AROUND - bounds.x, y: AROUND + TITLE - bounds.y }
  return {
    id: part.frame!,
    width: up(bounds.width + 2 * AROUND),
    height: up(bounds.height + 2 * AROUND + TITLE),
    places: new Map(movedBy(modules, by)),
    marks: new Map(movedBy(marks, by)),
  }
}

/** The corner from which some of a patch are laid out: where the first of them stand, or beside, where that covers others. */
const cornerAmong = (patch: Patch, part: Part, sketch: Sketch, places: readonly Place[]): Place => {
  const { frames, notes } = marksOf(patch),
    ids = new Set(modulesOf(part)),
    inFrames = new Set(part.parts.map(({ frame }) => frame))
  const rects = patch.modules.map((module) => ({ id: module.id, ...cardRect(patch, module) })),
    own = [...rects.filter(({ id }) => ids.has(id)), ...frames.filter(({ id }) => inFrames.has(id))]
  const { x, y } = boundsOf(own),
    size = boundsOf(sketch.nodes.map((node, at) => ({ ...node, ...places[at]! })))
  const isOwn = (note: Rect): boolean =>
    frames.some((frame) => inFrames.has(frame.id) && isWithin(note, frame))
  const others = [...rects.filter(({ id }) => !ids.has(id)), ...notes.filter((note) => !isOwn(note))]
  return nearestFree(others, { ...size, x: snap(x), y: snap(y) })
}

/**
 * New places of a patch's cards, or of some of them. What stands in a frame is laid out within it, and the frame among
 * the others as one of them; notes stay beside what they stood next to.
 *
 * @param room The window without its margins, in pixels of the screen.
 * @param kernel Finds layers.
 * @param ids Those to be laid out; the others stay, and none comes to stand on them. A frame goes along where all it
 *   holds is among them.
 */
export const tidied = async (
  patch: Patch,
  room: Room,
  kernel: Kernel,
  ids?: ReadonlySet<string>,
): Promise<Tidied> => {
  const whole = sketchOf(patch, ids)
  if (whole.nodes.length === 0) return { modules: new Map(), marks: new Map() }
  const work = { patch, sketch: whole, room, kernel },
    part = partsOf(patch, ids)
  const { sketch, frames, places } = await laidPart(work, part)
  const corner = ids ? cornerAmong(patch, part, sketch, places) : { x: 0, y: 0 }
  return withLoose(work, part, spread(sketch, frames, places, corner))
}
