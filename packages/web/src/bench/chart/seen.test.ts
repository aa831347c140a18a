/** What is on the page while the chart moves and when it rests: little at a time, and all of it in the end. */
import { CATALOGUE, checkPatch, type Patch } from '@ypsilon/core'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { distanceAt, textScaleAt } from './distance.ts'
import { type PlacedCard, placesOf } from './places.ts'
import { type Look, OVERSCAN, Seen, type SeenCard } from './seen.ts'
import { touches, Viewport } from './viewport.ts'

const ACROSS = 20
const types = [...CATALOGUE.keys()].filter((type) => CATALOGUE.get(type)?.description.internal !== true)
const patch: Patch = (() => {
  const result = checkPatch({
    format: 'ypsilon/patch',
    version: 1,
    modules: Array.from({ length: 400 }, (_, n) => ({
      id: `m${n}`,
      type: types[n % types.length],
      x: 264 * (n % ACROSS),
      y: 420 * Math.floor(n / ACROSS),
    })),
    cables: [],
  })
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return result.value
})()
const { cards } = placesOf(patch, new Set())

const viewAt = (x: number, y: number, zoom: number): Viewport =>
  Object.assign(new Viewport(), { x: -x * zoom, y: -y * zoom, zoom, width: 1200, height: 700 })
const lookAt = (zoom: number): Look => ({ distance: distanceAt(zoom), scale: textScaleAt(zoom).sounding })
const ids = (list: readonly SeenCard[]): string[] => list.map(({ card }) => card.id)

const around = (view: Viewport): string[] =>
  [...cards.values()].filter(({ box }: PlacedCard) => touches(box, view.area(OVERSCAN))).map(({ id }) => id)

describe('cards on the page', () => {
  it('are those around the view once it rests, all as things look then, whatever was before', () => {
    const place = fc.record({
      x: fc.integer({ min: 0, max: 4500 }),
      y: fc.integer({ min: 0, max: 7500 }),
      zoom: fc.double({ min: 0.26, max: 0.85, noNaN: true }),
      moves: fc.integer({ min: 0, max: 40 }),
    })
    fc.assert(
      fc.property(fc.array(place, { minLength: 1, maxLength: 4 }), (places) => {
        const view = viewAt(0, 0, 0.5),
          seen = new Seen(view)
        seen.place(cards)
        for (const { x, y, zoom, moves } of places) {
          Object.assign(view, viewAt(x, y, zoom))
          for (let n = 0; n < moves; n += 1) seen.listMoving(cards, lookAt(zoom))
          const list = seen.list(cards, lookAt(zoom))
          expect(ids(list)).toEqual(around(view))
          const { distance, scale } = lookAt(zoom)
          expect(list.every((card) => card.distance === distance && card.scale === scale)).toBe(true)
          expect(seen.list(cards, lookAt(zoom))).toBe(list)
        }
      }),
      { numRuns: 60 },
    )
  })

  it('come and go a few at a time while it moves, those in view first, and none is left out in the end', () => {
    const view = viewAt(0, 0, 0.4),
      seen = new Seen(view),
      look = lookAt(0.4)
    seen.place(cards)
    let before = new Set(ids(seen.list(cards, look)))
    Object.assign(view, viewAt(1400, 1600, 0.4))
    const inView = [...cards.values()].filter(({ box }) => touches(box, view.area()))
    let frames = 0
    for (; frames < 200; frames += 1) {
      const list = ids(seen.listMoving(cards, look)),
        now = new Set(list)
      const came = list.filter((id) => !before.has(id)),
        went = [...before].filter((id) => !now.has(id))
      expect(came.length + went.length).toBeLessThanOrEqual(7)
      const isInViewWaiting = inView.some(({ id }) => !now.has(id))
      const isBeyond = came.some((id) => !inView.some((card) => card.id === id))
      expect(isInViewWaiting && isBeyond).toBe(false)
      if (came.length + went.length === 0) break
      before = now
    }
    expect([...before].sort()).toEqual(around(view).sort())
    expect(frames).toBeGreaterThan(3)
  })

  it('keep their text within a fifth of its size through a zoom, and are not all set anew in one frame', () => {
    const view = viewAt(0, 0, 0.8),
      seen = new Seen(view)
    seen.place(cards)
    let list = seen.list(cards, lookAt(0.8)),
      most = 0
    for (let zoom = 0.8; zoom > 0.3; zoom *= 0.99) {
      Object.assign(view, viewAt(0, 0, zoom))
      const { scale } = lookAt(zoom)
      const before = new Map(list.map((one) => [one.card.id, one.scale]))
      list = seen.listMoving(cards, { distance: 'middle', scale })
      const anew = list.filter((one) => before.has(one.card.id) && before.get(one.card.id) !== one.scale)
      most = Math.max(most, anew.length)
      for (const one of list)
        if (touches(one.card.box, view.area())) expect(Math.abs(one.scale * zoom - 1)).toBeLessThan(0.2)
    }
    expect(most).toBeGreaterThan(0)
    expect(most).toBeLessThan(0.3 * list.length)
  })
})
