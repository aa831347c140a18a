import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../testing/bench.ts'

type Values = readonly number[]
/** What a module gives for constant inputs. */
const given = (
  type: string,
  params: Record<string, number | string | boolean>,
  inputs: Record<string, number>,
  ports: readonly string[],
  data: object = {},
): Values => {
  const names = Object.keys(inputs)
  const heard = hear(
    patchOf(
      [
        ...names.map((name): [string, string, Record<string, number>] => [
          `v${name}`,
          'value',
          { value: inputs[name]! },
        ]),
        ['m', type, params, { data }],
      ],
      names.map((name) => `v${name}.out > m.${name}`),
    ),
    0.02,
    { taps: ports.map((port) => `m.${port}`) },
  )
  return ports.map((port) => Math.round(heard.tap(`m.${port}`).at(-1)! * 1e5) / 1e5 + 0)
}
const rises = (x: ArrayLike<number>): number[] => {
  const list: number[] = []
  for (let i = 0; i < x.length; i += 1) if (x[i]! > 0.5 && !((x[i - 1] ?? 0) > 0.5)) list.push(i)
  return list
}

describe('maths and logic', () => {
  it('maps, folds, crosses and compares', () => {
    expect(given('map', { outLow: 10, outHigh: 20 }, { in: 0.25 }, ['out'])).toEqual([12.5])
    expect(given('map', { inLow: 20000, inHigh: 200 }, { in: 0.25 }, ['out'])).toEqual([1])
    expect(given('map', { outLow: 10, outHigh: 20 }, { in: 3 }, ['out'])).toEqual([20])
    expect(given('map', { outLow: 10, outHigh: 20, clamp: false }, { in: 3 }, ['out'])).toEqual([40])
    expect(given('map', { inLow: 1, inHigh: -1, curve: 0.5 }, { in: 0 }, ['out'])[0]).toBeCloseTo(
      (1 - Math.exp(-1.5)) / (1 - Math.exp(-3)),
      4,
    )
    expect(given('rectify', {}, { in: -0.4 }, ['full', 'positive', 'negative'])).toEqual([0.4, 0, -0.4])
    expect(given('crossfade', { position: 0 }, { a: 1, b: 0 }, ['out'])[0]).toBeCloseTo(Math.SQRT1_2, 4)
    expect(given('crossfade', { position: 1 }, { a: 1, b: 0.3 }, ['out'])).toEqual([0.3])
    expect(given('crossfade', { position: 0, law: 'full' }, { a: 0.5, b: 0.25 }, ['out'])).toEqual([0.75])
    expect(given('compare', { level: 0.5 }, { a: 0.6 }, ['above', 'below'])).toEqual([1, 0])
    expect(given('compare', {}, { a: 0.5, b: 0.5 }, ['above', 'below'])).toEqual([0, 0])
    expect(given('logic', {}, { a: 1, b: 0 }, ['and', 'or', 'xor', 'not', 'flip'])).toEqual([0, 1, 1, 0, 1])
    expect(
      given('curve', {}, { in: 0.5 }, ['out'], {
        points: [
          { x: -1, y: 0 },
          { x: 0, y: 1 },
          { x: 1, y: 0 },
        ],
      }),
    ).toEqual([0.5])
    expect(given('junction', { reflection: 0.3 }, { left: 1, right: 0.5 }, ['toleft', 'toright'])).toEqual([
      0.65, 1.15,
    ])
    const [left, right] = given(
      'junction',
      { reflection: 0.3, form: 'normalised' },
      { left: 1, right: 0.5 },
      ['toleft', 'toright'],
    )
    expect(left! ** 2 + right! ** 2).toBeCloseTo(1.25, 4)
  })
  it('a comparator with hysteresis does not chatter', () => {
    const gates = (hysteresis: number): number =>
      rises(
        hear(
          patchOf(
            [
              ['l', 'lfo', { rate: 1, shape: 'triangle' }],
              ['w', 'noise', { level: 0.05 }],
              ['m', 'mix'],
              ['c', 'compare', { hysteresis }],
            ],
            ['l.out > m.in1', 'w.white > m.in2', 'm.out > c.a'],
          ),
          2,
          { taps: ['c.above'] },
        ).tap('c.above'),
      ).length
    expect(gates(0)).toBeGreaterThan(10)
    expect(gates(0.2)).toBe(2)
  })
  it('a gate is delayed and has its length, or that of what comes in', () => {
    const heard = (params: Record<string, number>): Float32Array =>
      hear(
        patchOf(
          [
            ['n', 'notes'],
            ['g', 'gate', params],
          ],
          ['n.gate > g.in'],
        ),
        1,
        { play: '60@0.1+0.2', taps: ['g.gate'] },
      ).tap('g.gate')
    const length = (x: Float32Array): number => {
      const [at] = rises(x)
      let n = 0
      while (x[at! + n]! > 0.5) n += 1
      return n
    }
    expect([rises(heard({})), length(heard({}))]).toEqual([[4800], 9600])
    expect([rises(heard({ delay: 0.05 })), length(heard({ delay: 0.05 }))]).toEqual([[7200], 9600])
    expect([rises(heard({ delay: 0.05, length: 0.5 })), length(heard({ delay: 0.05, length: 0.5 }))]).toEqual(
      [[7200], 24000],
    )
  })
  it('switches and routes at the clock', () => {
    const heard = hear(
      patchOf(
        [
          ['c', 'clock', { source: 'own', tempo: 60 }],
          ['a', 'value', { value: 1 }],
          ['b', 'value', { value: 2 }],
          ['d', 'value', { value: 3 }],
          ['s', 'switch', { steps: 3 }],
          ['r', 'route', { steps: 2 }],
        ],
        [
          'c.beat > s.clock',
          'c.beat > r.clock',
          'a.out > s.in1',
          'b.out > s.in2',
          'd.out > s.in3',
          'a.out > r.in',
        ],
      ),
      5,
      { taps: ['s.out', 'r.out1', 'r.out2'] },
    )
    const at = (port: string): number[] =>
      [0, 1, 2, 3, 4].map((second) => heard.tap(port)[second * 48000 + 100]!)
    expect(at('s.out')).toEqual([1, 2, 3, 1, 2])
    expect(at('r.out1')).toEqual([1, 0, 1, 0, 1])
    expect(at('r.out2')).toEqual([0, 1, 0, 1, 0])
    expect(given('switch', { steps: 4 }, { in1: 1, in3: 5, select: 0.6 }, ['out'])).toEqual([5])
  })
})

describe('shapes', () => {
  it('stacks cables into voices and takes them apart', () => {
    const heard = hear(
      patchOf(
        [
          ['a', 'value', { value: 1 }],
          ['b', 'value', { value: 2 }],
          ['d', 'value', { value: 3 }],
          ['s', 'stack', { voices: 3 }],
          ['u', 'unstack'],
          ['m', 'sum'],
          ['x', 'sum', { gain: 'balanced' }],
        ],
        ['a.out > s.in1', 'b.out > s.in2', 'd.out > s.in3', 's.out > u.in', 's.out > m.in', 's.out > x.in'],
      ),
      0.01,
      { taps: ['s.out', 'u.out1', 'u.out3', 'u.out4', 'm.out', 'x.out'] },
    )
    expect(heard.lanes('s.out').map((x) => x[100])).toEqual([1, 2, 3])
    expect([heard.tap('u.out1')[100], heard.tap('u.out3')[100], heard.tap('u.out4')[100]]).toEqual([1, 3, 0])
    expect(heard.tap('m.out')[100]).toBe(6)
    expect(heard.tap('x.out')[100]).toBeCloseTo(6 / Math.sqrt(3), 5)
  })
  it('joins, splits, pans and widens', () => {
    const heard = hear(
      patchOf(
        [
          ['n', 'notes', { voices: 5, mode: 'poly' }],
          ['a', 'value', { value: 1 }],
          ['j', 'join'],
          ['s', 'split'],
          ['p', 'pan', { pan: -1 }],
          ['q', 'pan', { law: 'linear', pan: 0.5 }],
          ['w', 'stereo', { width: 0 }],
          ['x', 'stereo', { swap: true }],
        ],
        [
          'n.voice > j.left',
          'a.out > j.right',
          'j.out > s.in',
          'a.out > p.in',
          'a.out > q.in',
          'j.out > w.in',
          'j.out > x.in',
        ],
      ),
      0.01,
      { taps: ['j.out', 's.left', 's.right', 'p.out', 'q.out', 'w.out', 'x.out'] },
    )
    const at = (port: string): number[] => heard.lanes(port).map((x) => Math.round(x[100]! * 1e4) / 1e4 + 0)
    expect(at('j.out')).toEqual([0, 1, 1, 1, 2, 1, 3, 1, 4, 1])
    expect(at('s.left')).toEqual([0, 1, 2, 3, 4])
    expect(at('s.right')).toEqual([1, 1, 1, 1, 1])
    expect(at('p.out')).toEqual([1, 0])
    expect(at('q.out')).toEqual([0.25, 0.75])
    expect(at('w.out')).toEqual([0.5, 0.5, 1, 1, 1.5, 1.5, 2, 2, 2.5, 2.5])
    expect(at('x.out').slice(0, 4)).toEqual([1, 0, 1, 1])
  })
  it('the mixer mixes, mutes, solos, inverts, sends and balances', () => {
    const out = (params: Record<string, number | boolean | string>, port = 'out'): number =>
      hear(
        patchOf(
          [
            ['a', 'value', { value: 0.4 }],
            ['b', 'value', { value: 0.2 }],
            ['m', 'mixer', params],
          ],
          ['a.out > m.in1', 'b.out > m.in2'],
        ),
        0.05,
        { taps: [`m.${port}`] },
      )
        .lanes(`m.${port}`)[0]!
        .at(-1)!
    // Equal power: each side of what stands in the middle is 3 dB down.
    const middle = Math.SQRT1_2
    expect(out({})).toBeCloseTo(0.6 * middle, 5)
    expect(out({ level1: -6.0206 })).toBeCloseTo(0.4 * middle, 4)
    expect(out({ mute1: true })).toBeCloseTo(0.2 * middle, 5)
    expect(out({ solo1: true })).toBeCloseTo(0.4 * middle, 5)
    expect(out({ invert2: true })).toBeCloseTo(0.2 * middle, 5)
    expect(out({ pan1: 1 })).toBeCloseTo(0.2 * middle, 5)
    expect(out({ pan1: -1 })).toBeCloseTo(0.4 + 0.2 * middle, 5)
    expect(out({ gain: 'balanced' })).toBeCloseTo((0.6 * middle) / Math.SQRT2, 5)
    expect(out({ low1: 6.0206 })).toBeCloseTo(middle, 2)
    expect(out({ sendA2: 0.5 }, 'sendA')).toBeCloseTo(0.1 * middle, 5)
  })
})
