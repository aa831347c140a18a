import { type Cable, emptyPatch, type Patch, type PatchModule } from '@ypsilon/core'
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest'
import type { PictureItem } from './picture-layer.ts'
import { Pictures, type WatchParts } from './pictures.ts'
import { type Places, placesOf } from './places.ts'

// Widths of texts need a canvas: here every character is as wide as another.
beforeAll(() => {
  const measureText = (text: string) => ({ width: 6 * text.length })
  vi.stubGlobal('document', { createElement: () => ({ getContext: () => ({ measureText }) }) })
})
afterAll(() => {
  vi.unstubAllGlobals()
})

const modules: PatchModule[] = [
  { id: 'osc', type: 'oscillator', x: 0, y: 0 },
  { id: 'noise', type: 'noise', x: 0, y: 400 },
  { id: 'out', type: 'output', x: 300, y: 0 },
]
const patchWith = (...cables: Cable[]): Patch => ({ ...emptyPatch('Quay'), modules, cables })
const cable = (from: string): Cable => ({ id: 'c', from, to: 'out.in' })

/** The pictures of a patch from further off, made by the same pictures one after the other. */
const chart = () => {
  const pictures = new Pictures({} as WatchParts)
  let places: Places | undefined
  return (patch: Patch): Map<string, PictureItem> => {
    places = placesOf(patch, new Set(), places)
    const look = { distance: 'middle', scale: 1.5 } as const
    const seen = [...places.cards.values()].map((card) => ({ card, hasRows: false, ...look }))
    const { cards } = places
    const items = pictures.items({
      patch,
      whole: patch,
      seen,
      cards,
      ...look,
      louped: new Set(),
      held: new Set(),
    })
    return new Map(items.map((item) => [item.key.split(' ')[0]!, item]))
  }
}

describe('pictures of soundings', () => {
  it('are of the signal that comes in by now, though the module is the same', () => {
    const show = chart()
    const alone = show(patchWith()).get('out')!,
      osc = show(patchWith(cable('osc.saw'))).get('out')!,
      noise = show(patchWith(cable('noise.white'))).get('out')!
    expect(new Set([alone.painter, osc.painter, noise.painter]).size).toBe(3)
    expect(new Set([alone.key, osc.key, noise.key]).size).toBe(3)
  })

  it('go on where they were while nothing of them has changed', () => {
    const show = chart()
    const before = show(patchWith(cable('osc.saw'))),
      after = show({ ...patchWith(cable('osc.saw')), tempo: 90 })
    for (const id of ['osc', 'noise', 'out']) expect(after.get(id)!.painter).toBe(before.get(id)!.painter)
  })

  it('are not drawn where another card lies over them', () => {
    const show = chart()
    const over = { ...patchWith(), modules: [...modules, { id: 'lid', type: 'filter', x: 12, y: 12 }] }
    expect(show(over).has('osc')).toBe(false)
    expect(show(over).has('lid')).toBe(true)
  })
})
