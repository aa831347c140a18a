import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../testing/bench.ts'
import { amplitudes, db, rms } from '../../testing/measure.ts'

const peak = (x: Float32Array): number => x.reduce((most, v) => Math.max(most, Math.abs(v)), 0)
const tone = (level: number, hz = 1000): readonly [string, string, Record<string, number | boolean>] => [
  'o',
  'oscillator',
  { tracking: false, frequency: hz, level },
]

describe('multiply', () => {
  it('gives exactly the sum and the difference', () => {
    const a = amplitudes(
      hear(
        patchOf(
          [tone(1, 3000), ['p', 'oscillator', { tracking: false, frequency: 750 }], ['m', 'multiply']],
          ['o.sine > m.a', 'p.sine > m.b'],
        ),
        1,
        { taps: ['m.out'] },
      ).tap('m.out'),
      16384,
      24000,
    )
    expect(db(a[Math.round((2250 * 16384) / 48000)]!)).toBeCloseTo(-6.02, 1)
    expect(db(a[Math.round((3750 * 16384) / 48000)]!)).toBeCloseTo(-6.02, 1)
    expect(db(a[1024]!)).toBeLessThan(-100)
  })
})

describe('dynamics', () => {
  it('follows its curve', () => {
    const gain = (level: number, ratio: number): number =>
      db(
        rms(
          hear(
            patchOf(
              [
                tone(10 ** (level / 20)),
                ['d', 'dynamics', { threshold: -20, ratio, knee: 0, attack: 0.1, release: 500 }],
              ],
              ['o.sine > d.in'],
            ),
            2,
            { taps: ['d.out'] },
          ).tap('d.out'),
          48000,
        ) * Math.SQRT2,
      )
    expect(gain(-30, 4)).toBeCloseTo(-30, 1)
    expect(gain(0, 4)).toBeCloseTo(-15, 0)
    expect(gain(-8, 4)).toBeCloseTo(-17, 0)
    expect(gain(-30, 0.5)).toBeLessThan(-38)
    expect(gain(-10, 0.5)).toBeCloseTo(-10, 0)
  })
  it('ducks to a side signal', () => {
    const heard = hear(
      patchOf(
        [tone(0.5), ['n', 'notes'], ['d', 'dynamics', { threshold: -40, ratio: 20, attack: 1, release: 50 }]],
        ['o.sine > d.in', 'n.gate > d.side'],
      ),
      1,
      { play: '60@0.25+0.25', taps: ['d.out'] },
    ).tap('d.out')
    expect(rms(heard, 4800, 9600)).toBeGreaterThan(0.3)
    expect(rms(heard, 16800, 23000)).toBeLessThan(0.02)
    expect(rms(heard, 43000)).toBeGreaterThan(0.3)
  })
})

describe('limiter', () => {
  it('never lets anything over its ceiling and leaves the rest alone', () => {
    const loud = hear(
      patchOf(
        [
          ['w', 'noise'],
          ['a', 'amplifier', { level: 12 }],
          ['l', 'limiter', { ceiling: -6 }],
        ],
        ['w.white > a.in', 'a.out > l.in'],
      ),
      1,
      { taps: ['l.out'] },
    ).tap('l.out')
    expect(peak(loud)).toBeLessThanOrEqual(10 ** (-6 / 20) + 1e-6)
    expect(peak(loud)).toBeGreaterThan(0.3)
    const quiet = hear(patchOf([tone(0.3), ['l', 'limiter', { ceiling: -6 }]], ['o.sine > l.in']), 0.2, {
      taps: ['o.sine', 'l.out'],
    })
    // 1.5 ms, and what it takes to see between samples.
    const late = 72 + 31
    expect(quiet.tap('l.out').subarray(late)).toEqual(
      quiet.tap('o.sine').subarray(0, quiet.tap('o.sine').length - late),
    )
  })

  it('looks ahead as far as it is told, and says what it takes off', () => {
    for (const lookahead of [0, 0.5, 1.5, 10]) {
      const heard = hear(
        patchOf(
          [
            ['n', 'notes'],
            ['o', 'oscillator', { frequency: 1000, tracking: false }],
            ['a', 'amplifier', { level: 12 }],
            ['l', 'limiter', { ceiling: -6, lookahead, release: 30 }],
          ],
          ['o.sine > a.in', 'n.gate > a.cv', 'a.out > l.in'],
        ),
        1,
        { play: '60@0.1+0.5', taps: ['l.out', 'l.reduction'] },
      )
      expect(peak(heard.tap('l.out')), `${lookahead}`).toBeLessThanOrEqual(10 ** (-6 / 20) + 1e-6)
      // 12 dB above, 6 dB below: 18 dB go, 0.3 of 60.
      expect(peak(heard.tap('l.reduction').subarray(9600, 24000)), `${lookahead}`).toBeCloseTo(0.3, 2)
      const first = heard.tap('l.out').findIndex((x) => x !== 0)
      expect(
        Math.abs(first - 4801 - 31 - Math.max(1, Math.round(lookahead * 48))),
        `${lookahead}`,
      ).toBeLessThan(2)
      expect(heard.tap('l.reduction').at(-1)!).toBeCloseTo(0, 3)
    }
  })
})

describe('dynamics', () => {
  it.each([50, 60, 440, 3000, 9000])('reads a sine of %i Hz at its peak', (hz) => {
    const heard = hear(
      patchOf(
        [tone(1, hz), ['d', 'dynamics', { threshold: -20, ratio: 100, knee: 0, attack: 1, release: 100 }]],
        ['o.sine > d.in'],
      ),
      1,
      { taps: ['d.reduction'] },
    ).tap('d.reduction')
    // 20 dB over the threshold, all but a hundredth taken off.
    const reads = (60 * rms(heard, 24000)) / 0.99
    expect(Math.abs(reads - 20)).toBeLessThan(0.1)
  })
})

describe('transient', () => {
  it('gives a new hit none of the gain of the tail before it', () => {
    const heard = hear(
      patchOf(
        [
          ['n', 'notes'],
          ['w', 'noise'],
          ['e', 'decay', { attack: 0, decay: 0.08 }],
          ['a', 'amplifier'],
          ['t', 'transient', { sustain: 1, attack: 0 }],
        ],
        ['n.trigger > e.trigger', 'w.white > a.in', 'e.env > a.cv', 'a.out > t.in'],
      ),
      1,
      { play: '60@0.1+0.05 60@0.3+0.05 60@0.5+0.05', taps: ['t.out', 'a.out'] },
    )
    for (const t of [0.3, 0.5]) {
      const at = Math.round(t * 48000) + 2
      const [wet, dry] = ['t.out', 'a.out'].map((port) => peak(heard.tap(port).slice(at, at + 96)))
      expect(db(wet! / dry!), `${t}`).toBeLessThan(1.5)
    }
  })
})

describe('crush', () => {
  it('rounds to its bits and holds for its rate', () => {
    const bits = new Set(
      hear(patchOf([tone(0.99), ['c', 'crush', { bits: 3 }]], ['o.sine > c.in']), 0.1, {
        taps: ['c.out'],
      }).tap('c.out'),
    )
    // Eight levels, half a step to either side of 0, and the silence before the first sample.
    expect([...bits].filter((x) => x !== 0).every((x) => Number.isInteger(x * 4 - 0.5))).toBe(true)
    expect([...bits].filter((x) => x !== 0).length).toBe(8)
    const one = hear(patchOf([tone(0.99), ['c', 'crush', { bits: 1 }]], ['o.sine > c.in']), 0.1, {
      taps: ['c.out'],
    }).tap('c.out')
    expect(new Set(one.subarray(1))).toEqual(new Set([0.5, -0.5]))
    const held = hear(
      patchOf([tone(0.9, 100), ['c', 'crush', { bits: 24, rate: 4800 }]], ['o.sine > c.in']),
      0.1,
      { taps: ['c.out'] },
    ).tap('c.out')
    let changes = 0
    for (let i = 1; i < 4800; i += 1) if (held[i] !== held[i - 1]) changes += 1
    expect(changes).toBeGreaterThan(465)
    expect(changes).toBeLessThan(482)
  })
})

describe('shaper and folder', () => {
  it('a drawn cube is a cube', () => {
    const curve = Array.from({ length: 257 }, (_, i) => (i / 128 - 1) ** 3)
    const a = amplitudes(
      hear(patchOf([tone(1, 750), ['s', 'shaper', {}, { data: { curve } }]], ['o.sine > s.in']), 1, {
        taps: ['s.out'],
      }).tap('s.out'),
      16384,
      24000,
    )
    // sin³ = ¾ sin x − ¼ sin 3x
    expect(a[256]!).toBeCloseTo(0.75, 2)
    expect(a[768]!).toBeCloseTo(0.25, 2)
    expect(db(a[512]!)).toBeLessThan(-70)
  })
  it('the folder turns peaks round and stays within ±1', () => {
    const out = hear(patchOf([tone(1, 110), ['f', 'folder', { folds: 0.4 }]], ['o.sine > f.in']), 0.5, {
      taps: ['f.out'],
    })
      .tap('f.out')
      .subarray(12000)
    expect(peak(out)).toBeLessThan(1.1)
    let turns = 0
    for (let i = 2; i < out.length; i += 1)
      if ((out[i]! - out[i - 1]!) * (out[i - 1]! - out[i - 2]!) < 0) turns += 1
    expect(turns / (110 * 0.25)).toBeGreaterThan(6)
  })
})

describe('low-pass gate and transient', () => {
  it('opens at once and closes by its decay, darker on the way', () => {
    const out = hear(
      patchOf(
        [
          ['w', 'noise'],
          ['n', 'notes'],
          ['l', 'lowpassgate', { decay: 0.4 }],
        ],
        ['w.white > l.in', 'n.trigger > l.trigger'],
      ),
      1.5,
      { play: '60@0+1', taps: ['l.out'] },
    ).tap('l.out')
    const share = (from: number): number => {
      const a = amplitudes(out, 2048, from)
      const sum = (low: number, high: number): number =>
        a.subarray(low, high).reduce((total, x) => total + x * x, 0)
      return sum(200, 900) / sum(1, 900)
    }
    expect(rms(out, 200, 1000)).toBeGreaterThan(0.2)
    expect(rms(out, 60000)).toBeLessThan(0.001)
    expect(share(9600)).toBeLessThan(share(300) * 0.7)
  })
  it('stresses beginnings', () => {
    const out = (attack: number): Float32Array =>
      hear(
        patchOf(
          [
            tone(0.2),
            ['n', 'notes'],
            ['e', 'envelope', { attack: 0.001, sustain: 1 }],
            ['t', 'transient', { attack }],
          ],
          ['o.sine > e.in', 'n.gate > e.gate', 'e.out > t.in'],
        ),
        0.6,
        { play: '60@0.1+0.5', taps: ['t.out'] },
      ).tap('t.out')
    expect(peak(out(1).subarray(4800, 5800)) / peak(out(0).subarray(4800, 5800))).toBeGreaterThan(1.5)
    expect(rms(out(1), 20000, 24000) / rms(out(0), 20000, 24000)).toBeCloseTo(1, 1)
  })
})
