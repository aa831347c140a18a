/** Tidy with frames and notes: what was together stays together, and nothing comes to lie on anything. */
import Elk from 'elkjs/lib/elk.bundled.js'
import fc from 'fast-check'
import { produce } from 'immer'
import { describe, expect, it } from 'vitest'
import type { Patch } from '../patch/types.ts'
import { placeModules } from '../patch/levels.ts'
import { demoPatch, DEMOS } from '../testing/patches.ts'
import { cardRect, type Rect } from './free.ts'
import { addFrame, addNote, isWithin, marksOf, modulesIn, placeMarks } from './marks.ts'
import type { ElkAnswer, Kernel } from './layers.ts'
import { ROOM } from './place.ts'
import { tidied } from './tidied.ts'

const elk = new Elk()
const kernel: Kernel = async (graph) =>
  (await elk.layout(graph as unknown as Parameters<typeof elk.layout>[0])) as ElkAnswer

const tidy = async (patch: Patch, ids?: ReadonlySet<string>): Promise<Patch> => {
  const { modules, marks } = await tidied(patch, ROOM, kernel, ids)
  return produce(patch, (draft) => {
    placeModules(draft, modules)
    placeMarks(draft, marks)
  })
}
const framed = (patch: Patch, ...sets: readonly (readonly string[])[]): Patch =>
  produce(patch, (draft) => {
    for (const ids of sets) addFrame(draft, new Set(ids), ids.join(' '))
  })
const touch = (a: Rect, b: Rect): boolean =>
  a.x < b.x + b.width && a.x + a.width > b.x && a.y < b.y + b.height && a.y + a.height > b.y
const holds = (outer: Rect, inner: Rect): boolean =>
  inner.x >= outer.x &&
  inner.y >= outer.y &&
  inner.x + inner.width <= outer.x + outer.width &&
  inner.y + inner.height <= outer.y + outer.height

const cardsOf = (patch: Patch): (Rect & { id: string })[] =>
  patch.modules.map((module) => ({ id: module.id, ...cardRect(patch, module) }))

/** Who holds whom: modules by their frame, by its title; the smallest one counts. */
const homes = (patch: Patch): Record<string, string> => {
  const { frames } = marksOf(patch),
    bySize = [...frames].sort((a, b) => a.width * a.height - b.width * b.height)
  return Object.fromEntries(
    cardsOf(patch).map(({ id, ...card }) => [id, bySize.find((frame) => isWithin(card, frame))?.title ?? '']),
  )
}

const expectClean = (patch: Patch): void => {
  const cards = cardsOf(patch),
    { frames, notes } = marksOf(patch)
  cards.forEach((card, n) => {
    for (const other of cards.slice(0, n)) expect(touch(card, other), `${card.id} on ${other.id}`).toBe(false)
    for (const note of notes) expect(touch(card, note), `${card.id} on ${note.text}`).toBe(false)
    // A card is all in a frame, or all out of it.
    for (const frame of frames)
      expect(holds(frame, card) || !touch(frame, card), `${card.id} at the edge of ${frame.title}`).toBe(true)
  })
  frames.forEach((a, n) => {
    for (const b of frames.slice(0, n))
      expect(holds(a, b) || holds(b, a) || !touch(a, b), `${a.title} across ${b.title}`).toBe(true)
  })
}

/** Frames around modules that stand in a row of columns, so that none holds a stranger. */
const columnsOf = (patch: Patch): string[][] => {
  const xs = [...new Set(patch.modules.map(({ x = 0 }) => x))].sort((a, b) => a - b)
  return xs.map((at) => patch.modules.filter(({ x }) => x === at).map(({ id }) => id))
}

describe('Tidy of what is framed', () => {
  it('keeps what a frame holds, with nothing on anything, and changes nothing a second time', async () => {
    for (const name of DEMOS.filter((_, n) => n % 2 === 0)) {
      const patch = demoPatch(name),
        columns = columnsOf(patch)
      const first = columns[0]!.concat(columns[1] ?? []),
        last = columns.slice(-1)[0]!
      const before = framed(patch, first, last),
        homesBefore = homes(before)
      const after = await tidy(before)
      expect(homes(after), name).toEqual(homesBefore)
      expectClean(after)
      expect(await tidy(after), name).toEqual(after)
    }
  }, 60_000)

  it('lays frames out within frames, and moves them as they are where they are alone', async () => {
    const patch = demoPatch('rain-on-glass'),
      [a = [], b = []] = columnsOf(patch)
    const before = framed(patch, a, [...a, ...b]),
      after = await tidy(before)
    expect(homes(after)).toEqual(homes(before))
    expectClean(after)
    const [inner, outer] = marksOf(after).frames
    expect(holds(outer!, inner!)).toBe(true)
  })

  it('lets notes stand beside what they stood next to, in a frame and out of it', async () => {
    const patch = demoPatch('reed-lamp')
    const one = cardsOf(patch)[0]!
    const before = produce(framed(patch, [one.id]), (draft) => {
      addNote(draft, { x: one.x + 20, y: one.y + one.height + 40 }, 'under it')
      addNote(draft, { x: 900, y: -300 }, 'far off')
      ;(draft['view'] as { frames: object[] }).frames.push({
        id: 'empty',
        title: 'Nothing yet',
        x: 40,
        y: 1200,
        width: 240,
        height: 144,
      })
    })
    const after = await tidy(before)
    expectClean(after)
    expect(marksOf(after).frames).toHaveLength(2)
    expect(await tidy(after)).toEqual(after)
    const next = cardsOf(after).find(({ id }) => id === one.id)!,
      note = marksOf(after).notes[0]!
    expect(Math.hypot(note.x - next.x, note.y - next.y - next.height)).toBeLessThan(300)
  })

  it('of a selection takes a frame along where all it holds is selected, and else leaves it', async () => {
    const patch = demoPatch('ferry-engine'),
      [a = [], b = []] = columnsOf(patch)
    const before = framed(patch, a),
      frame = marksOf(before).frames[0]!
    const whole = await tidy(before, new Set([...a, ...b]))
    expect(modulesIn(whole, marksOf(whole).frames[0]!).sort()).toEqual([...a].sort())
    expectClean(whole)
    const part = await tidy(before, new Set([a[0]!, ...b]))
    expect(marksOf(part).frames[0]).toEqual(frame)
    for (const { id, x, y } of before.modules)
      if (id !== a[0] && !b.includes(id))
        expect(part.modules.find((other) => other.id === id)).toMatchObject({ x, y })
  })

  it('holds for frames drawn anywhere', async () => {
    const rect = fc.record({
      x: fc.integer({ min: -20, max: 90 }),
      y: fc.integer({ min: -20, max: 60 }),
      width: fc.integer({ min: 8, max: 60 }),
      height: fc.integer({ min: 8, max: 60 }),
    })
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...DEMOS),
        fc.array(rect, { minLength: 1, maxLength: 4 }),
        async (name, rects) => {
          const patch = {
            ...demoPatch(name),
            view: {
              frames: rects.map(({ x, y, width, height }, n) => ({
                id: `f${n}`,
                title: `f${n}`,
                x: 12 * x,
                y: 12 * y,
                width: 12 * width,
                height: 12 * height,
              })),
            },
          }
          const after = await tidy(patch)
          const cards = cardsOf(after)
          cards.forEach((card, n) => {
            for (const other of cards.slice(0, n)) expect(touch(card, other)).toBe(false)
          })
          expect(homes(after)).toEqual(homes(patch))
        },
      ),
      { numRuns: 12 },
    )
  }, 120_000)
})
