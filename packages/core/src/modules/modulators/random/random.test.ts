import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { rises, mean } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('random', {
  inputs: 'clock reset',
  outputs: 'stepped smooth trigger',
  params: 'distribution loop change polarity rate per',
})

describe('random', () => {
  it('has the distributions it names', () => {
    const share = (distribution: string): number => {
      const x = hear(patchOf([['r', 'random', { distribution, rate: 1000 }]], []), 20, {
          taps: ['r.stepped'],
        }).tap('r.stepped'),
        values = Array.from({ length: 19000 }, (_, i) => x[i * 48 + 24]!)
      expect(Math.abs(mean(values))).toBeLessThan(0.02)
      return values.filter((v) => Math.abs(v) > 0.5).length / values.length
    }
    expect(share('even')).toBeCloseTo(0.5, 1)
    expect(share('bell')).toBeLessThan(0.25)
    expect(share('edges')).toBeGreaterThan(0.65)
  })

  it('loops, and changes as often as it is told', () => {
    const values = (params: Record<string, number>): number[] => {
      const x = hear(patchOf([['r', 'random', { rate: 100, ...params }]], []), 4, {
        taps: ['r.stepped'],
      }).tap('r.stepped')
      return Array.from({ length: 380 }, (_, i) => x[i * 480 + 240]!)
    }
    const fixed = values({ loop: 5 })
    fixed.forEach((v, i) => {
      if (i >= 5) expect(v).toBe(fixed[i - 5])
    })
    expect(new Set(fixed).size).toBe(5)
    expect(new Set(values({ loop: 5, change: 1 })).size).toBeGreaterThan(300)
    const some = values({ loop: 5, change: 0.2 })
    const changed = some.filter((v, i) => i >= 5 && v !== some[i - 5]).length / 375
    expect(changed).toBeGreaterThan(0.12)
    expect(changed).toBeLessThan(0.28)
    expect(new Set(values({})).size).toBeGreaterThan(370)
  })

  it('smooth goes to every value within the step', () => {
    const heard = hear(patchOf([['r', 'random', { rate: 10 }]], []), 2, {
      taps: ['r.stepped', 'r.smooth', 'r.trigger'],
    })
    expect(heard.tap('r.smooth')[4800 * 7 + 4799]).toBeCloseTo(heard.tap('r.stepped')[4800 * 7 + 4799]!, 2)
    expect(rises(heard.tap('r.trigger')).length).toBe(20)
  })
})
