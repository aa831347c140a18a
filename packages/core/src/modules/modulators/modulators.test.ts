import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../testing/bench.ts'

const rises = (x: ArrayLike<number>): number[] => {
  const list: number[] = []
  for (let i = 0; i < x.length; i += 1) if (x[i]! > 0.5 && !((x[i - 1] ?? 0) > 0.5)) list.push(i)
  return list
}
const mean = (x: ArrayLike<number>): number => {
  let sum = 0
  for (let i = 0; i < x.length; i += 1) sum += x[i]!
  return sum / x.length
}

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

describe('contour', () => {
  const points = [
    { t: 0, v: 0 },
    { t: 0.5, v: 1 },
    { t: 0.75, v: 0.5 },
    { t: 1, v: -1 },
  ]
  it('draws its points over its length, once, held or looped', () => {
    const run = (mode: string): Float32Array =>
      hear(
        patchOf(
          [
            ['n', 'notes'],
            ['c', 'contour', { length: 0.4, mode }, { data: { points } }],
          ],
          ['n.gate > c.gate'],
        ),
        2,
        { play: '60@0+1', taps: ['c.out'] },
      ).tap('c.out')
    const once = run('once')
    expect(once[4800]).toBeCloseTo(0.5, 2)
    expect(once[9600]).toBeCloseTo(1, 2)
    expect(once[19300]).toBeCloseTo(-1, 2)
    expect(run('loop')[19200 + 9600]).toBeCloseTo(1, 2)
    const held = run('sustain')
    expect(held[40000]).toBeCloseTo(0.5, 2)
    expect(held[48000 + 4900]).toBeCloseTo(-1, 1)
  })
  it('follows the beat when synced', () => {
    const x = hear(
      patchOf(
        [
          ['n', 'notes'],
          ['c', 'contour', { length: 2, sync: true }, { data: { points } }],
        ],
        ['n.gate > c.gate'],
        { tempo: 60 },
      ),
      2.5,
      { play: '60@0+2', taps: ['c.out'] },
    ).tap('c.out')
    expect(x[48000]).toBeCloseTo(1, 2)
  })
})

describe('LFO bank and drift', () => {
  it('each output runs at the rate of the one before times the ratio', () => {
    const heard = hear(patchOf([['b', 'lfobank', { rate: 4, ratio: 0.5, shape: 'saw' }]], []), 4, {
      taps: ['b.out1', 'b.out2', 'b.out3'],
    })
    const falls = (x: Float32Array): number =>
      rises(x.map((v, i) => (i > 0 && v < x[i - 1]! - 1 ? 1 : 0))).length
    expect([falls(heard.tap('b.out1')), falls(heard.tap('b.out2')), falls(heard.tap('b.out3'))]).toEqual([
      15, 7, 3,
    ])
  })
  it('drift never repeats, goes where it likes and is opposite to its opposite', () => {
    const heard = hear(patchOf([['d', 'drift', { rate: 10 }]], []), 60, { taps: ['d.out', 'd.opposite'] }),
      x = heard.tap('d.out')
    expect(Math.abs(mean(x))).toBeLessThan(0.1)
    const most = x.reduce((a, b) => Math.max(a, Math.abs(b)), 0)
    expect(most).toBeGreaterThan(0.6)
    expect(most).toBeLessThanOrEqual(1)
    expect(heard.tap('d.opposite')[12345]).toBe(-x[12345]!)
    // No lag at which it looks like itself.
    const coarse = Array.from({ length: 6000 }, (_, i) => x[i * 480]!),
      power = coarse.reduce((sum, v) => sum + v * v, 0)
    for (let lag = 200; lag < 3000; lag += 7) {
      let sum = 0
      for (let i = 0; i + lag < 6000; i += 1) sum += coarse[i]! * coarse[i + lag]!
      expect(Math.abs(sum / power)).toBeLessThan(0.35)
    }
  })
  it('every voice drifts by itself', () => {
    const lanes = hear(
      patchOf(
        [
          ['n', 'notes', { voices: 3, mode: 'poly' }],
          ['m', 'copy', { voices: 3 }],
          ['d', 'drift'],
          ['f', 'fan', { pattern: 'random' }],
        ],
        ['n.gate > f.in'],
      ),
      0.1,
      { taps: ['f.out1'] },
    ).lanes('f.out1')
    expect(new Set(lanes.map((x) => x[100])).size).toBe(3)
  })
})

describe('fan', () => {
  it('spreads its places', () => {
    const at = (params: Record<string, number | string>): number[] => {
      const taps = [1, 2, 3, 4, 5, 6, 7, 8].map((n) => `f.out${n}`)
      const heard = hear(
        patchOf(
          [
            ['v', 'value', { value: 0.1 }],
            ['f', 'fan', params],
          ],
          ['v.out > f.in'],
        ),
        0.01,
        { taps },
      )
      return taps.map((tap) => Math.round(heard.tap(tap)[100]! * 1000) / 1000)
    }
    expect(at({ width: 0.7 })).toEqual([-0.6, -0.4, -0.2, 0, 0.2, 0.4, 0.6, 0.8])
    expect(at({ width: 0.7, polarity: 'unipolar', centre: 0.2 })).toEqual([
      0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1,
    ])
  })
  it('smooths', () => {
    const x = hear(
      patchOf(
        [
          ['v', 'value'],
          ['f', 'fan', { width: 0, smooth: 0.2 }],
        ],
        ['v.out > f.in'],
      ),
      0.5,
      { taps: ['f.out1'], events: [{ t: 0.1, type: 'param', target: 'v.value', value: 1 }] },
    ).tap('f.out1')
    expect(x[4800 + 9600]).toBeCloseTo(0.99, 2)
    expect(x[4800 + 960]).toBeLessThan(0.5)
  })
})

describe('chance, hold and random', () => {
  it('hits as often as its probability says, each voice for itself, by its seed', () => {
    const hits = (probability: number, seed: number): readonly Float32Array[] =>
      hear(
        patchOf(
          [
            ['c', 'clock', { source: 'own', tempo: 300, division1: '1/64' }],
            ['m', 'copy', { voices: 4 }],
            ['h', 'chance', { probability }],
          ],
          ['c.div1 > m.in', 'm.out > h.in'],
          { seed },
        ),
        25,
        { taps: ['h.hit'] },
      ).lanes('h.hit')
    for (const probability of [0.2, 0.5, 0.9]) {
      const counts = hits(probability, 1).map((x) => rises(x).length)
      // 2,000 throws a voice: five standard deviations.
      for (const count of counts)
        expect(Math.abs(count / 2000 - probability)).toBeLessThan(
          5 * Math.sqrt((probability * (1 - probability)) / 2000),
        )
      expect(new Set(counts.map(String)).size).toBeGreaterThan(1)
    }
    expect(rises(hits(0.5, 1)[0]!)).toEqual(rises(hits(0.5, 1)[0]!))
    expect(rises(hits(0.5, 1)[0]!)).not.toEqual(rises(hits(0.5, 2)[0]!))
  })
  it('toggle changes over at every lucky throw', () => {
    const heard = hear(
      patchOf(
        [
          ['c', 'clock', { source: 'own', tempo: 300 }],
          ['h', 'chance', { probability: 1, mode: 'toggle' }],
        ],
        ['c.beat > h.in'],
      ),
      4,
      { taps: ['h.hit', 'h.miss'] },
    )
    expect(rises(heard.tap('h.hit'))).toEqual([
      0, 19200, 38400, 57600, 76800, 96000, 115200, 134400, 153600, 172800,
    ])
    expect(rises(heard.tap('h.miss')).length).toBe(10)
  })
  it('holds what stood there at the clock, or tracks', () => {
    const heard = hear(
      patchOf(
        [
          ['l', 'lfo', { rate: 1, shape: 'saw' }],
          ['c', 'clock', { source: 'own', tempo: 120 }],
          ['h', 'hold'],
          ['t', 'hold', { mode: 'track' }],
        ],
        ['l.out > h.in', 'c.beat > h.clock', 'l.out > t.in', 'c.beat > t.clock'],
      ),
      2,
      { taps: ['h.out', 't.out', 'l.out'] },
    )
    expect(heard.tap('h.out')[30000]).toBeCloseTo(heard.tap('l.out')[24000]!, 6)
    expect(heard.tap('t.out')[6000]).toBeCloseTo(heard.tap('l.out')[6000]!, 6)
    expect(heard.tap('t.out')[20000]).toBeCloseTo(heard.tap('l.out')[11999]!, 3)
  })
  it('its own noise is even', () => {
    const x = hear(patchOf([['h', 'hold', { rate: 1000 }]], []), 20, { taps: ['h.out'] }).tap('h.out'),
      values = Array.from({ length: 19000 }, (_, i) => x[i * 48 + 24]!)
    expect(Math.abs(mean(values))).toBeLessThan(0.02)
    expect(values.filter((v) => v > 0.5).length / values.length).toBeCloseTo(0.25, 1)
    expect(mean(values.map((v) => v * v))).toBeCloseTo(1 / 3, 1)
  })
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

describe('follower', () => {
  it('follows the level with its time constants and opens its gate', () => {
    const heard = hear(
        patchOf(
          [
            ['n', 'notes'],
            ['f', 'follower', { attack: 10, release: 100, threshold: -12 }],
          ],
          ['n.gate > f.in'],
        ),
        1,
        { play: '60@0.1+0.4', taps: ['f.env', 'f.gate'] },
      ),
      env = heard.tap('f.env')
    expect(env[4800 + 480]).toBeCloseTo(1 - Math.exp(-1), 2)
    expect(env[24000 + 4800]).toBeCloseTo(Math.exp(-1), 2)
    expect(rises(heard.tap('f.gate'))).toHaveLength(1)
  })
})
