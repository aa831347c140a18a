import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { dataFaults } from '../patch/values.ts'
import {
  drawnHeights,
  heightAt,
  mirroredHeights,
  resampled,
  snappedHeight,
  transferOf,
  TRANSFERS,
  turnedOver,
} from './transfers.ts'
import { boxOf, layeredZones, movedMark, movedZone, spreadZones, zoneWithEdge } from './zone-map.ts'

describe('a transfer curve', () => {
  const data = { name: 'curve', kind: 'numbers', length: 2048, min: -4, max: 4 }
  const place = fc.double({ min: -1.5, max: 1.5, noNaN: true }),
    height = fc.double({ min: -9, max: 9, noNaN: true })
  const lists = fc.array(fc.double({ min: -4, max: 4, noNaN: true }), { minLength: 2, maxLength: 40 })

  it('is what the module takes, whatever is drawn, and stays as it was elsewhere', () => {
    fc.assert(
      fc.property(
        lists,
        place,
        height,
        place,
        height,
        fc.integer({ min: 0, max: 16 }),
        (list, x, y, u, v, lines) => {
          const next = drawnHeights(list, [x, y], [u, v], lines)
          for (const each of [next, turnedOver(list), mirroredHeights(list), resampled(list, 9)])
            expect(dataFaults(data, each, 'curve')).toEqual([])
          // Beyond an edge a hand draws at the edge.
          const [low, high] = [Math.min(x, u), Math.max(x, u)].map((at) => Math.min(1, Math.max(-1, at))) as [
            number,
            number,
          ]
          list.forEach((before, n) => {
            const at = (2 * n) / (list.length - 1) - 1
            if (at < low - 1 / (list.length - 1) - 1e-9 || at > high + 1 / (list.length - 1) + 1e-9)
              expect(next[n]).toBe(before)
          })
        },
      ),
    )
  })

  it('is the same curve by more values, and the shapes are odd or even as their names say', () => {
    const bent = [-1, -0.2, 0.4, 1]
    const many = resampled(bent, 301)
    for (const x of [-1, -0.5, 0.1, 0.77, 1]) expect(heightAt(many, x)).toBeCloseTo(heightAt(bent, x), 3)
    for (const name of TRANSFERS.keys()) expect(dataFaults(data, transferOf(name), 'curve')).toEqual([])
    const third = transferOf('third harmonic', 2001)
    for (const angle of [0.3, 1.1, 2.4])
      expect(heightAt(third, Math.cos(angle))).toBeCloseTo(Math.cos(3 * angle), 2)
    expect([snappedHeight(0.3, 4), snappedHeight(0.3, 0)]).toEqual([0.5, 0.3])
  })
})

describe('zones on the map', () => {
  const data = { name: 'zones', kind: 'zones', length: 64 }
  const zone = fc.record(
    {
      asset: fc.constant('take'),
      root: fc.integer({ min: 0, max: 127 }),
      lowKey: fc.integer({ min: 0, max: 127 }),
      highKey: fc.integer({ min: 0, max: 127 }),
      lowVelocity: fc.integer({ min: 0, max: 100 }).map((n) => n / 100),
      highVelocity: fc.integer({ min: 0, max: 100 }).map((n) => n / 100),
    },
    { requiredKeys: ['asset'] },
  )
  const isWhole = (each: ReturnType<typeof boxOf>): void => {
    expect(each.lowKey).toBeLessThanOrEqual(each.highKey)
    expect(each.lowVelocity).toBeLessThanOrEqual(each.highVelocity)
  }

  it('are what the module takes, wherever they are drawn to', () => {
    fc.assert(
      fc.property(
        zone,
        fc.double({ min: -200, max: 200, noNaN: true }),
        fc.double({ min: -2, max: 2, noNaN: true }),
        (before, keys, velocity) => {
          const moved = movedZone(before, keys, velocity)
          const edges = (['lowKey', 'highKey'] as const).map((edge) => zoneWithEdge(before, edge, keys))
          const heights = (['lowVelocity', 'highVelocity'] as const).map((edge) =>
            zoneWithEdge(before, edge, velocity),
          )
          for (const each of [moved, ...edges, ...heights]) {
            expect(dataFaults(data, [each], 'zones')).toEqual([])
            isWhole(boxOf(each))
            expect(each.asset).toBe('take')
          }
          // Moved whole it is as large as before.
          const [from, to] = [boxOf(before), boxOf(moved)]
          expect(to.highKey - to.lowKey).toBe(from.highKey - from.lowKey)
          expect(to.highVelocity - to.lowVelocity).toBeCloseTo(from.highVelocity - from.lowVelocity, 6)
        },
      ),
    )
  })

  it('are spread over keys without a gap, and laid over each other as layers of velocity', () => {
    const zones = Array.from({ length: 5 }, (_, n) => ({ asset: `t${n}` }))
    const spread = spreadZones(zones, 36, 95).map(boxOf)
    expect(spread[0]!.lowKey).toBe(36)
    expect(spread.at(-1)!.highKey).toBe(95)
    spread.slice(1).forEach((each, n) => {
      expect(each.lowKey).toBe(spread[n]!.highKey + 1)
    })
    const layers = layeredZones(zones).map(boxOf)
    expect(layers.map(({ lowVelocity }) => lowVelocity)).toEqual([0, 0.2, 0.4, 0.6, 0.8])
    expect(layers.at(-1)!.highVelocity).toBe(1)
  })

  it('marks of a recording never pass each other', () => {
    expect([movedMark([0.1, 0.5, 0.9], 1, 0.95), movedMark([0.1, 0.5, 0.9], 0, -3)]).toEqual([0.9, 0])
  })
})
