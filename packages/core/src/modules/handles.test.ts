import { describe, expect, it } from 'vitest'
import { PUBLIC_MODULES } from '../catalogue.ts'
import type { PictureHandle } from '../describe/types.ts'
import { handlesOf, pictureOf } from '../patch/picture.ts'
import type { PatchModule } from '../patch/types.ts'

/** A module with what a handle gives taken over. */
const after = (module: PatchModule, handle: PictureHandle, x: number, y: number): PatchModule => {
  const { params, data } = handle.moved(x, y)
  return { ...module, params: { ...module.params, ...params }, data: { ...module.data, ...data } }
}
const HAVING = PUBLIC_MODULES.filter(({ handles }) => handles !== undefined)

describe('handles of pictures', () => {
  it('are there for filter, envelope, equaliser, delay and both transfer curves', () => {
    expect(HAVING.map(({ type }) => type).sort()).toEqual([
      'curve',
      'delay',
      'envelope',
      'equalizer',
      'filter',
      'shaper',
    ])
  })

  it.each(HAVING.map(({ type }) => type))(
    'of %s stay where they are when they are put there, and are on its picture',
    (type) => {
      const module: PatchModule = { id: 'a', type }
      const handles = handlesOf(module)
      expect(handles.length).toBeGreaterThan(0)
      expect(new Set(handles.map(({ name }) => name)).size).toBe(handles.length)
      handles.forEach((handle, n) => {
        const [x, y] = handle.at
        expect(x).toBeGreaterThanOrEqual(0)
        expect(x).toBeLessThanOrEqual(1)
        expect(y).toBeGreaterThanOrEqual(0)
        expect(y).toBeLessThanOrEqual(1)
        const [again] = [handlesOf(after(module, handle, x, y))[n]!.at]
        expect(again[0]).toBeCloseTo(x, 6)
        expect(again[1]).toBeCloseTo(y, 6)
      })
    },
  )

  it('of the filter follow the hand, and the response goes through them', () => {
    const module: PatchModule = { id: 'a', type: 'filter', params: { slope: '24' } }
    const [handle] = handlesOf(module)
    const moved = after(module, handle!, 0.5, 0.8)
    expect(handlesOf(moved)[0]!.at[0]).toBeCloseTo(0.5, 6)
    expect(handlesOf(moved)[0]!.at[1]).toBeCloseTo(0.8, 6)
    const { points } = pictureOf(moved)!.curves[0]!
    const [, up] = points.find(([x]) => Math.abs(x - 0.5) < 1e-6)!
    expect(up).toBeCloseTo(0.8, 2)
  })

  it('of the envelope move one stage and leave the others', () => {
    const module: PatchModule = {
      id: 'a',
      type: 'envelope',
      params: { attack: 0.1, decay: 0.4, sustain: 0.5, release: 0.5 },
    }
    const [attack, decay, release] = handlesOf(module)
    const longer = after(module, attack!, attack!.at[0] + 0.1, 1)
    expect(longer.params!['attack']).toBeGreaterThan(0.2)
    expect([longer.params!['decay'], longer.params!['release']]).toEqual([0.4, 0.5])
    const lower = after(module, decay!, decay!.at[0], 0.2)
    expect(lower.params!['sustain']).toBeCloseTo(0.2, 9)
    expect(lower.params!['decay']).toBeCloseTo(0.4, 9)
    expect(after(module, release!, 0.9, 0).params!['release']).toBeLessThan(0.5)
    // Behind where its stage begins there is no time less than none.
    expect(after(module, release!, 0, 0).params!['release']).toBe(0)
  })

  it('of a drawn curve stay in their order', () => {
    const points = [
      { x: -1, y: -1 },
      { x: 0, y: 0.3 },
      { x: 0.5, y: 0.4 },
      { x: 1, y: 1 },
    ]
    const module: PatchModule = { id: 'a', type: 'curve', data: { points } }
    const [first, second] = handlesOf(module)
    const xs = (moved: PatchModule): number[] => (moved.data!['points'] as { x: number }[]).map(({ x }) => x)
    expect(xs(after(module, second!, 1, 0.5))).toEqual([-1, 0.5, 0.5, 1])
    expect(xs(after(module, first!, 0.7, 0.1))).toEqual([-1, 0, 0.5, 1])
  })
})
