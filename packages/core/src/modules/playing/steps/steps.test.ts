import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { rises, onFor } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('steps', {
  inputs: 'clock reset',
  outputs: 'a b gate trigger accent end',
  params: 'length order gateLength rangeA rangeB keep',
  data: 'a b on chance repeat tie accents lengths',
})

describe('steps', () => {
  const steps = (
    params: Record<string, number | string>,
    data: object,
    port: string,
    seconds = 6,
  ): Float32Array =>
    hear(
      patchOf(
        [
          ['c', 'clock', { division1: '1/8' }],
          ['s', 'steps', params, { data }],
        ],
        ['c.div1 > s.clock'],
      ),
      seconds,
      { taps: [`s.${port}`] },
    ).tap(`s.${port}`)

  it('sequences of 8, 7 and 5 steps over one clock add up as arithmetic says', () => {
    const a = [0, 3, 5, 7, 10, 12, 2, 4],
      b = [0, 1, 2, 3, 4, 5, 6],
      c = [12, 0, 7, 5, 3]
    const heard = hear(
      patchOf(
        [
          ['c', 'clock', { division1: '1/16' }],
          ['a', 'steps', { length: 8 }, { data: { a } }],
          ['b', 'steps', { length: 7 }, { data: { a: b } }],
          ['d', 'steps', { length: 5 }, { data: { a: c } }],
          ['m', 'mix'],
        ],
        [
          'c.div1 > a.clock',
          'c.div1 > b.clock',
          'c.div1 > d.clock',
          'a.a > m.in1',
          'b.a > m.in2',
          'd.a > m.in3',
        ],
        { tempo: 300 },
      ),
      16,
      { taps: ['m.out', 'c.div1'] },
    )
    const clocks = rises(heard.tap('c.div1'))
    expect(clocks.length).toBe(320)
    clocks.forEach((at, n) =>
      expect(heard.tap('m.out')[at]! * 12).toBeCloseTo(a[n % 8]! + b[n % 7]! + c[n % 5]!, 4),
    )
  })

  it('plays step 1 first, also after a reset', () => {
    const heard = hear(
      patchOf(
        [
          ['v', 'value'],
          ['c', 'clock', { division1: '1/8' }],
          ['s', 'steps', { length: 4 }, { data: { a: [12, 0, 0, 0] } }],
        ],
        ['c.div1 > s.clock', 'v.out > s.reset'],
      ),
      3,
      { taps: ['s.a'], events: [{ t: 0.6, type: 'param', target: 'v.value', value: 1 }] },
    )
    const at = (frame: number): number => heard.tap('s.a')[frame]!
    expect([at(0), at(12000), at(24000), at(36000), at(48000), at(84000)]).toEqual([1, 0, 0, 1, 0, 1])
  })

  it('orders', () => {
    const order = (word: string): number[] => {
      const x = steps({ length: 4, order: word }, { a: [0, 1, 2, 3] }, 'a')
      return Array.from({ length: 12 }, (_, n) => Math.round(x[n * 12000 + 10]! * 12))
    }
    expect(order('reverse').slice(0, 5)).toEqual([3, 2, 1, 0, 3])
    expect(order('pendulum').slice(0, 8)).toEqual([0, 1, 2, 3, 2, 1, 0, 1])
    expect(new Set(order('random')).size).toBeGreaterThan(2)
    order('walk').forEach((x, i, list) => {
      if (i > 0) expect(Math.abs(x - list[i - 1]!)).toBe(1)
    })
  })

  it('gates, ties, repeats, accents, chances and ends', () => {
    const data = {
      a: [],
      on: [true, false, true, true],
      tie: [false, false, true, false],
      repeat: [1, 1, 1, 3],
      accents: [true, false, false, false],
    }
    const gate = steps({ length: 4, gateLength: 0.5 }, data, 'gate')
    // From the second round on the length of a step is known.
    expect(rises(gate).filter((at) => at >= 48000 && at < 96000)).toEqual([48000, 72000, 88000, 92000])
    expect(onFor(gate, 48000)).toBe(6000)
    expect(onFor(gate, 72000)).toBe(12000 + 2000)
    expect(rises(steps({ length: 4 }, data, 'trigger')).filter((at) => at >= 48000 && at < 96000)).toEqual([
      48000, 72000, 88000, 92000,
    ])
    expect(rises(steps({ length: 4 }, data, 'accent')).slice(0, 3)).toEqual([0, 48000, 96000])
    expect(rises(steps({ length: 4 }, data, 'end')).slice(0, 2)).toEqual([48000, 96000])
    const lucky = rises(steps({ length: 1 }, { a: [], chance: [0.3] }, 'gate', 60)).length
    expect(lucky).toBeGreaterThan(45)
    expect(lucky).toBeLessThan(100)
  })

  it('rows with lengths of their own go round by themselves, and begin anew with a reset', () => {
    const a = [0, 1, 2, 3, 4, 5, 6, 7],
      lengths = [5, 3, 0, 0, 2, 0, 4]
    const data = { a, b: [10, 20, 30], repeat: [1, 2], accents: [true, false, false, false], lengths }
    const at = (port: string, n: number, share = 0.5): number =>
      steps({ length: 8, rangeB: 'bipolar' }, data, port)[Math.round((n + share) * 12000)]!
    for (let n = 0; n < 20; n += 1) {
      expect(12 * at('a', n)).toBeCloseTo(n % 5, 4)
      expect(at('b', n)).toBeCloseTo([10, 20, 30][n % 3]!, 4)
    }
    // Every second step is struck twice, once it is known how long one is.
    const gates = rises(steps({ length: 8 }, data, 'gate')).filter((when) => when >= 24000 && when < 72000)
    expect(gates).toEqual([24000, 36000, 42000, 48000, 60000, 66000])
    expect(rises(steps({ length: 8 }, data, 'accent')).slice(0, 4)).toEqual([0, 48000, 96000, 144000])
    // The sequence itself ends where it did.
    expect(rises(steps({ length: 8 }, data, 'end')).slice(0, 2)).toEqual([96000, 192000])
    const again = hear(
      patchOf(
        [
          ['c', 'clock', { division1: '1/8' }],
          ['r', 'clock', { source: 'own', tempo: 120, division1: '1/1' }],
          ['s', 'steps', { length: 8 }, { data }],
        ],
        ['c.div1 > s.clock', 'r.div1 > s.reset'],
      ),
      6,
      { taps: ['s.a'] },
    ).tap('s.a')
    // A bar has eight eighths: at its end a row of five begins anew, though it is not through.
    for (let n = 0; n < 16; n += 1) expect(12 * again[n * 12000 + 6000]!).toBeCloseTo((n % 8) % 5, 4)
  })

  it('deals in the unit of its range', () => {
    expect(steps({ length: 1, rangeA: 'octaves' }, { a: [0.585] }, 'a', 0.1)[10]).toBe(Math.fround(0.585))
    expect(steps({ length: 1 }, { a: [7] }, 'a', 0.1)[10]).toBe(Math.fround(7 / 12))
  })
})

describe('steps', () => {
  const stepsAt = (params: Record<string, boolean>, data: object = {}): number[] => {
    const heard = hear(
      patchOf(
        [
          ['c', 'clock', { division1: '1/4' }],
          [
            's',
            'steps',
            { length: 4, ...params },
            { data: { a: [0, 7, 12, 3], b: [1, 2, 3, 4], on: [true, false, true, false], ...data } },
          ],
        ],
        ['c.div1 > s.clock'],
        { tempo: 120 },
      ),
      2,
      { taps: ['s.a'] },
    ).tap('s.a')
    return [0, 1, 2, 3].map((n) => Math.round(12 * heard[n * 24000 + 12000]!))
  }

  it('steps keep a and b on steps that are off, unless told not to', () => {
    expect(stepsAt({})).toEqual([0, 0, 12, 12])
    expect(stepsAt({ keep: false })).toEqual([0, 7, 12, 3])
    // A first step that is off has nothing to keep.
    expect(stepsAt({}, { on: [false, true, false, true] })[1]).toBe(7)
  })
})
