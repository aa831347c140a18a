import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { rises } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('euclid', {
  inputs: 'clock reset',
  outputs: 'trigger gate accent end',
  params: 'steps hits rotate accents',
})

describe('euclid', () => {
  it('gives the rhythms of the algorithm, turned and accented', () => {
    const hits = (params: Record<string, number>, port = 'trigger'): string => {
      const x = hear(
        patchOf(
          [
            ['c', 'clock', { division1: '1/16' }],
            ['e', 'euclid', params],
          ],
          ['c.div1 > e.clock'],
        ),
        3,
        { taps: [`e.${port}`] },
      ).tap(`e.${port}`)
      const at = rises(x)
      return Array.from({ length: params['steps']! }, (_, n) => (at.includes(n * 6000) ? 'x' : '.')).join('')
    }
    expect(hits({ steps: 8, hits: 3 })).toBe('x..x..x.')
    expect(hits({ steps: 8, hits: 5 })).toBe('x.xx.xx.')
    expect(hits({ steps: 16, hits: 5 })).toBe('x..x..x..x..x...')
    expect(hits({ steps: 8, hits: 3, rotate: 1 })).toBe('.x..x..x')
    expect(hits({ steps: 8, hits: 0 })).toBe('........')
    expect(hits({ steps: 8, hits: 4, accents: 2 }, 'accent')).toBe('x...x...')
    expect(hits({ steps: 12, hits: 7 })).toBe('x.xx.x.xx.x.')
    expect(hits({ steps: 5, hits: 5 })).toBe('xxxxx')
  })
})
