import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { rises } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('decay', {
  inputs: 'trigger velocity in',
  outputs: 'env out end',
  params: 'attack decay curve power velocityAmount',
})

describe('decay', () => {
  it('rises in its attack and falls along its curve', () => {
    const env = hear(
      patchOf(
        [
          ['n', 'notes'],
          ['d', 'decay', { attack: 0.01, decay: 0.2, curve: 0.5 }],
        ],
        ['n.trigger > d.trigger'],
      ),
      0.5,
      { play: '60@0.1+0.1', taps: ['d.env', 'd.end'] },
    )
    const x = env.tap('d.env'),
      k = 3
    expect(x[4800 + 480]).toBeCloseTo(1, 2)
    for (const share of [0.1, 0.3, 0.7])
      expect(x[4800 + 480 + Math.round(9600 * share)]).toBeCloseTo(
        1 - (1 - Math.exp(-k * share)) / (1 - Math.exp(-k)),
        2,
      )
    expect(x[4800 + 480 + 9602]).toBe(0)
    expect(rises(env.tap('d.end'))[0]).toBeGreaterThan(14870)
  })

  it('never clicks when it is hit again', () => {
    const x = hear(
      patchOf(
        [
          ['c', 'clock', { division1: '1/64' }],
          ['d', 'decay', { attack: 0.005, decay: 0.5 }],
        ],
        ['c.div1 > d.trigger'],
        { tempo: 150 },
      ),
      1,
      { taps: ['d.env'] },
    ).tap('d.env')
    let most = 0
    for (let i = 1; i < x.length; i += 1) most = Math.max(most, Math.abs(x[i]! - x[i - 1]!))
    expect(most).toBeLessThan(0.006)
  })

  it('is raised to its power and scaled by velocity', () => {
    const level = (params: Record<string, number>): number =>
      hear(
        patchOf(
          [
            ['n', 'notes'],
            ['d', 'decay', { attack: 0, decay: 1, curve: 0, ...params }],
          ],
          ['n.trigger > d.trigger', 'n.velocity > d.velocity'],
        ),
        0.6,
        { play: '60@0+0.1:0.5', taps: ['d.env'] },
      ).tap('d.env')[24000]!
    expect(level({})).toBeCloseTo(0.5, 3)
    expect(level({ power: 3 })).toBeCloseTo(0.125, 3)
    expect(level({ velocityAmount: 1 })).toBeCloseTo(0.25, 3)
  })
})
