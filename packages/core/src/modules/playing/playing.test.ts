import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../testing/bench.ts'

/** Frames at which a gate or trigger rises. */
const rises = (x: ArrayLike<number>): number[] => {
  const list: number[] = []
  for (let i = 0; i < x.length; i += 1) if (x[i]! > 0.5 && !((x[i - 1] ?? 0) > 0.5)) list.push(i)
  return list
}
const onFor = (x: ArrayLike<number>, from: number): number => {
  let n = 0
  while (x[from + n]! > 0.5) n += 1
  return n
}

describe('clock', () => {
  it('counts beats, bars and note values on the exact sample', () => {
    const heard = hear(
      patchOf(
        [['c', 'clock', { division1: '1/4', division2: '1/8t', division3: '1/16', division4: '1/8.' }]],
        [],
        { tempo: 96 },
      ),
      6,
      { taps: ['c.beat', 'c.bar', 'c.div1', 'c.div2', 'c.div3', 'c.div4', 'c.phase', 'c.start', 'c.run'] },
    )
    const beat = 30000
    expect(rises(heard.tap('c.beat'))).toEqual(Array.from({ length: 10 }, (_, i) => i * beat))
    expect(rises(heard.tap('c.bar'))).toEqual([0, 4 * beat, 8 * beat])
    expect(rises(heard.tap('c.div2'))).toEqual(Array.from({ length: 29 }, (_, i) => i * 10000))
    expect(rises(heard.tap('c.div3')).slice(0, 8)).toEqual(Array.from({ length: 8 }, (_, i) => i * 7500))
    expect(rises(heard.tap('c.div4')).slice(0, 5)).toEqual([0, 22500, 45000, 67500, 90000])
    expect(onFor(heard.tap('c.div1'), 0)).toBe(15000)
    expect(heard.tap('c.phase')[15000]).toBeCloseTo(0.5, 6)
    expect(rises(heard.tap('c.start'))).toEqual([0])
    expect(heard.tap('c.run')[100]).toBe(1)
  })
  it('swings every second pulse and sets the width', () => {
    const div = hear(
      patchOf([['c', 'clock', { division1: '1/8', swing: 0.5, width: 0.25 }]], [], { tempo: 120 }),
      2,
      { taps: ['c.div1'] },
    ).tap('c.div1')
    expect(rises(div).slice(0, 6)).toEqual([0, 18000, 24000, 42000, 48000, 66000])
    expect(onFor(div, 0)).toBe(3000)
  })
  it('starts over at a reset and after the transport stopped', () => {
    const heard = hear(
      patchOf(
        [
          ['v', 'value'],
          ['c', 'clock'],
        ],
        ['v.out > c.reset'],
        { tempo: 120 },
      ),
      3,
      {
        taps: ['c.beat', 'c.run'],
        events: [
          { t: 0.3, type: 'param', target: 'v.value', value: 1 },
          { t: 1, type: 'transport', value: 'stop' },
          { t: 1.5, type: 'transport', value: 'start' },
        ],
      },
    )
    expect(rises(heard.tap('c.beat')).slice(0, 3)).toEqual([0, 14400, 38400])
    expect(
      heard
        .tap('c.beat')
        .subarray(48000, 71999)
        .every((x) => x === 0),
    ).toBe(true)
    expect(rises(heard.tap('c.beat'))).toContain(72000)
  })
  it('keeps its count while its own tempo is modulated', () => {
    const heard = hear(
      patchOf(
        [
          ['l', 'lfo', { rate: 3 }],
          ['c', 'clock', { source: 'own', tempo: 120 }],
          ['s', 'steps', { length: 7 }, { data: { a: [0, 1, 2, 3, 4, 5, 6] } }],
        ],
        ['l.sine > c.tempo * 0.5', 'c.div1 > s.clock'],
      ),
      8,
      { taps: ['c.beat', 's.a', 'c.div1'] },
    )
    const clocks = rises(heard.tap('c.div1')),
      beats = rises(heard.tap('c.beat'))
    expect(clocks).toEqual(beats)
    expect(clocks.length).toBeGreaterThan(14)
    clocks.forEach((at, index) => expect(heard.tap('s.a')[at]! * 12).toBeCloseTo(index % 7, 5))
  })
  it('changes tempo in the middle without losing its place', () => {
    const heard = hear(patchOf([['c', 'clock', { source: 'own', tempo: 60 }]], []), 4, {
      taps: ['c.beat'],
      events: [{ t: 1.5, type: 'param', target: 'c.tempo', value: 120 }],
    })
    expect(
      rises(heard.tap('c.beat'))
        .slice(0, 3)
        .map((x) => Math.round(x / 500)),
    ).toEqual([0, 96, 168])
  })
})

describe('divider', () => {
  it('lets every nth through, offset, and multiplies', () => {
    const clocked = (params: Record<string, number>): number[] =>
      rises(
        hear(
          patchOf(
            [
              ['c', 'clock'],
              ['d', 'divide', params],
            ],
            ['c.beat > d.clock'],
          ),
          6,
          { taps: ['d.out'] },
        ).tap('d.out'),
      )
    expect(clocked({ divide: 3 })).toEqual([0, 72000, 144000, 216000])
    expect(clocked({ divide: 3, offset: 1 })).toEqual([24000, 96000, 168000, 240000])
    expect(clocked({ divide: 1, multiply: 3 }).slice(0, 8)).toEqual([
      0, 24000, 32000, 40000, 48000, 56000, 64000, 72000,
    ])
    expect(clocked({ divide: 4, multiply: 3 }).slice(0, 4)).toEqual([0, 32000, 64000, 96000])
  })
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
  it('deals in the unit of its range', () => {
    expect(steps({ length: 1, rangeA: 'octaves' }, { a: [0.585] }, 'a', 0.1)[10]).toBe(Math.fround(0.585))
    expect(steps({ length: 1 }, { a: [7] }, 'a', 0.1)[10]).toBe(Math.fround(7 / 12))
  })
})

describe('Euclid', () => {
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

describe('arpeggio', () => {
  const played = (
    params: Record<string, number | string | boolean>,
    play: string,
    seconds = 3,
  ): { pitches: number[]; triggers: number[] } => {
    const heard = hear(
      patchOf(
        [
          ['n', 'notes', { voices: 6, mode: 'poly' }],
          ['c', 'clock', { division1: '1/8' }],
          ['a', 'arp', params],
        ],
        ['n.pitch > a.pitch', 'n.gate > a.gate', 'c.div1 > a.clock'],
      ),
      seconds,
      { play, taps: ['a.pitch', 'a.trigger'] },
    )
    const triggers = rises(heard.tap('a.trigger'))
    return { triggers, pitches: triggers.map((at) => Math.round(heard.tap('a.pitch')[at]! * 12)) }
  }
  const chord = '64@0+2 60@0+2 67@0+2'
  it('plays the held chord in its orders', () => {
    expect(played({ order: 'up' }, chord).pitches.slice(0, 5)).toEqual([0, 4, 7, 0, 4])
    expect(played({ order: 'down' }, chord).pitches.slice(0, 4)).toEqual([7, 4, 0, 7])
    expect(played({ order: 'updown' }, chord).pitches.slice(0, 6)).toEqual([0, 4, 7, 4, 0, 4])
    expect(played({ order: 'played' }, chord).pitches.slice(0, 4)).toEqual([4, 0, 7, 4])
    expect(played({ order: 'up', octaves: 2 }, chord).pitches.slice(0, 7)).toEqual([0, 4, 7, 12, 16, 19, 0])
    expect(played({ order: 'together' }, chord).triggers.filter((at) => at >= 12000 && at < 24000)).toEqual([
      12000, 16000, 20000,
    ])
  })
  it('stops with the last key, unless it is latched', () => {
    expect(Math.max(...played({}, chord, 4).triggers)).toBeLessThan(97000)
    expect(Math.max(...played({ latch: true }, chord, 4).triggers)).toBeGreaterThan(170000)
    expect(played({ latch: true }, `${chord} 72@2.5+0.1`, 4).pitches.at(-1)).toBe(12)
  })
})

describe('pattern', () => {
  it('plays its notes on their beats, chords on several voices, round its bars', () => {
    const notes = [
      { start: 0, length: 1, note: 60, velocity: 0.5 },
      { start: 0, length: 2, note: 64 },
      { start: 2, length: 0.5, note: 67 },
    ]
    const heard = hear(
      patchOf([['p', 'pattern', { voices: 2, bars: 1 }, { data: { notes } }]], [], { tempo: 120 }),
      5,
      { taps: ['p.gate', 'p.pitch', 'p.velocity'] },
    )
    const gates = heard.lanes('p.gate').map(rises),
      [first, second] = gates
    expect(first).toEqual([0, 48000, 96000, 144000, 192000])
    expect(second).toEqual([0, 96000, 192000])
    expect(heard.lanes('p.pitch').map((x) => Math.round(x[10]! * 12))).toEqual([0, 4])
    expect(heard.lanes('p.velocity')[0]![10]).toBe(0.5)
    expect(onFor(heard.lanes('p.gate')[0]!, 48000)).toBe(12000)
  })
  it('once means once', () => {
    expect(
      rises(
        hear(
          patchOf(
            [
              [
                'p',
                'pattern',
                { voices: 1, bars: 1, mode: 'once' },
                { data: { notes: [{ start: 1, length: 1, note: 60 }] } },
              ],
            ],
            [],
          ),
          6,
          { taps: ['p.gate'] },
        ).lanes('p.gate')[0]!,
      ),
    ).toEqual([24000])
  })
})

describe('pitch', () => {
  const outOf = (
    type: string,
    params: Record<string, number | string>,
    input: number,
    data: object = {},
    port = 'out',
  ): number[] =>
    hear(
      patchOf(
        [
          ['v', 'value', { value: input }],
          ['m', type, params, { data }],
        ],
        [type === 'chord' ? 'v.out > m.pitch' : 'v.out > m.in'],
      ),
      0.01,
      { taps: [`m.${port}`] },
    )
      .lanes(`m.${port}`)
      .map((x) => Math.round(x.at(-1)! * 1200) / 100)
  it('chords have their intervals, inversion and spread', () => {
    expect(outOf('chord', { notes: 4 }, 0, {}, 'pitch')).toEqual([0, 4, 7, 11])
    expect(outOf('chord', { notes: 3, interval2: 3, inversion: 1 }, 0, {}, 'pitch')).toEqual([12, 3, 7])
    expect(outOf('chord', { notes: 3, spread: 2 }, 0, {}, 'pitch')).toEqual([0, 16, 31])
  })
  it('the quantiser finds the notes of its scale', () => {
    const major = { scale: [1, 0, 1, 0, 1, 1, 0, 1, 0, 1, 0, 1].map((x) => x === 1) }
    expect(outOf('quantize', {}, 1.2 / 12, major)).toEqual([2])
    expect(outOf('quantize', {}, 0.9 / 12, major)).toEqual([0])
    expect(outOf('quantize', { direction: 'down' }, 6.9 / 12, major)).toEqual([5])
    expect(outOf('quantize', { direction: 'down' }, Math.fround(7 / 12), major)).toEqual([7])
    expect(outOf('quantize', { direction: 'up' }, 5.1 / 12, major)).toEqual([7])
    expect(outOf('quantize', { root: 2 }, -0.1 / 12, major)).toEqual([-1])
    expect(outOf('quantize', { root: 2 }, 0, major)).toEqual([1])
    expect(outOf('quantize', {}, -13.2 / 12, major)).toEqual([-13])
  })
  it('a glide takes the time it says, straight or bent, and ends exactly', () => {
    const glide = (params: Record<string, number | string | boolean>): Float32Array =>
      hear(
        patchOf(
          [
            ['v', 'value'],
            ['g', 'glide', params],
          ],
          ['v.out > g.in'],
        ),
        1,
        { events: [{ t: 0.1, type: 'param', target: 'v.value', value: 1 }], taps: ['g.out'] },
      ).tap('g.out')
    const straight = glide({ rise: 0.2 })
    expect(straight[4800 + 4799]).toBeCloseTo(0.5, 3)
    expect(straight[4800 + 9600]).toBe(1)
    const bent = glide({ rise: 0.2, curve: 'exponential' })
    expect(bent[4800 + 9600]).toBeCloseTo(0.99, 3)
    expect(bent[47999]).toBe(1)
    expect(glide({ rise: 0 })[4801]).toBe(1)
  })
})

describe('what keeps and scatters', () => {
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

  it('a pattern scatters every note anew, a chord each of its notes for good', () => {
    const notes = Array.from({ length: 8 }, (_, n) => ({ start: n / 2, length: 0.4, note: 60 + n }))
    const heard = hear(
      patchOf(
        [
          ['p', 'pattern', { voices: 1, bars: 1 }, { data: { notes } }],
          ['h', 'chord', { notes: 4 }],
        ],
        [],
        { tempo: 120 },
      ),
      2,
      { taps: ['p.scatter', 'h.scatter'] },
    )
    const scatter = heard.tap('p.scatter')
    const values = notes.map((_, n) => scatter[n * 12000 + 6000]!)
    expect(new Set(values).size).toBe(8)
    for (const value of values) expect(Math.abs(value)).toBeLessThanOrEqual(1)
    const chord = heard.lanes('h.scatter').map((lane) => [lane[0]!, lane.at(-1)!])
    expect(new Set(chord.map(([first]) => first)).size).toBe(4)
    for (const [first, last] of chord) expect(last).toBe(first)
  })
})
