import { describe, expect, it } from 'vitest'
import { CATALOGUE, PUBLIC_MODULES } from '../catalogue.ts'
import type { NumberParam, PictureHandle } from '../describe/types.ts'
import { handlesOf, pictureOf } from '../patch/picture.ts'
import type { PatchModule } from '../patch/types.ts'

/** A module with what a handle gives taken over, as far as its parameters go. */
const after = (module: PatchModule, handle: PictureHandle, x: number, y: number): PatchModule => {
  const { params: given = {}, data } = handle.moved(x, y),
    known = CATALOGUE.get(module.type)!.params
  const params = Object.fromEntries(
    Object.entries(given).map(([name, value]) => {
      const { min, max } = known.get(name) as NumberParam
      return [name, Math.min(max, Math.max(min, value))]
    }),
  )
  return { ...module, params: { ...module.params, ...params }, data: { ...module.data, ...data } }
}
const HAVING = PUBLIC_MODULES.filter(({ handles }) => handles !== undefined)

describe('handles of pictures', () => {
  it('are there for filters, envelopes, equaliser, delay and transfer curves', () => {
    expect(HAVING.map(({ type }) => type).sort()).toEqual([
      'comb',
      'contour',
      'curve',
      'decay',
      'delay',
      'drive',
      'dynamics',
      'envelope',
      'equalizer',
      'filter',
      'ladder',
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

  /** How far a place is from the first curve of a picture, in heights: it may be drawn steeply there. */
  const offCurve = (module: PatchModule, [x, y]: PictureHandle['at']): number => {
    const { points } = pictureOf(module)!.curves[0]!
    const next = points.findIndex(([at]) => at >= x - 1e-9)
    const heights = points.slice(Math.max(0, next - 2), next + 2).map(([, up]) => up)
    return Math.max(0, Math.min(...heights) - y, y - Math.max(...heights))
  }

  it.each([
    ['filter', { slope: '24' }],
    ['ladder', { slope: '12', mode: 'band' }],
    ['ladder', { slope: '24', resonance: 1.1 }],
    ['comb', { feedforward: 0.4, damping: 0.8 }],
    ['comb', { feedback: -0.7 }],
    ['drive', { curve: 'tube', gain: 12 }],
    ['drive', { curve: 'diode', bias: -0.4, gain: 18 }],
    ['dynamics', { threshold: -30, ratio: 8, knee: 12 }],
    ['dynamics', { ratio: 0.5 }],
    ['decay', { attack: 0.2, curve: 0 }],
  ] as const)('of %s %o stand on the curve wherever they are put', (type, params) => {
    const module: PatchModule = { id: 'a', type, params }
    for (const [n, handle] of handlesOf(module).entries())
      for (const x of [0.15, 0.4, 0.52, 0.7, 0.95])
        for (const y of [0.1, 0.35, 0.6, 0.85]) {
          const moved = after(module, handle, x, y)
          const next = handlesOf(moved).find(({ name }) => name === handle.name)
          // Where the hand has left what the module can do there may be no such place any more.
          if (!next) continue
          expect(offCurve(moved, next.at), `${n} ${x} ${y}`).toBeLessThan(0.03)
        }
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
