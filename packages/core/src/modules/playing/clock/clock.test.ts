import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { rises, onFor } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('clock', {
  inputs: 'reset',
  outputs: 'beat bar phase run start div1 div2 div3 div4',
  params: 'source tempo division1 division2 division3 division4 swing width',
})

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
