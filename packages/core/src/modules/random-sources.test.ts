import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../testing/bench.ts'

const SOURCES: readonly (readonly [type: string, port: string])[] = [
  ['noise', 'white'],
  ['drift', 'out'],
  ['hold', 'out'],
  ['random', 'stepped'],
]
/** A random source into a filter that three voices play, and further. */
const lanes = (
  type: string,
  port: string,
  params: Record<string, string | number>,
  further: readonly (readonly [string, string])[] = [['f', 'filter']],
  cables: readonly string[] = [],
): readonly Float32Array[] =>
  hear(
    patchOf(
      [['n', 'notes', { voices: 3, mode: 'poly' }], ['o', 'oscillator'], ['r', type, params], ...further],
      [
        'n.pitch > o.pitch',
        ...(further.some(([id]) => id === 'f') ? ['o.saw > f.in', `r.${port} > f.cutoff`] : []),
        ...cables,
      ],
    ),
    0.2,
    { play: '60@0+0.2', taps: [`r.${port}`] },
  ).lanes(`r.${port}`)

describe('random sources', () => {
  it.each(SOURCES)('%s has a voice for every voice it feeds, each with values of its own', (type, port) => {
    const own = lanes(type, port, {})
    expect(own.length).toBe(3)
    expect(own[1]).not.toEqual(own[0])
    expect(own[2]).not.toEqual(own[1])
    expect(lanes(type, port, { per: 'patch' }).length).toBe(1)
  })

  it('takes the most voices anywhere on its way, up to where voices end', () => {
    expect(
      lanes(
        'noise',
        'white',
        {},
        [
          ['m', 'mix'],
          ['f', 'filter'],
        ],
        ['r.white > m.in1', 'm.out > f.resonance'],
      ).length,
    ).toBe(3)
    // Behind a sum and at the output there are no voices.
    for (const end of ['sum', 'output', 'unstack'] as const)
      expect(lanes('noise', 'white', {}, [['s', end]], ['o.saw > s.in', 'r.white > s.in']).length, end).toBe(
        1,
      )
  })

  it('takes its voices from what it is given instead, where it is given something', () => {
    const held = lanes(
      'hold',
      'out',
      {},
      [
        ['f', 'filter'],
        ['l', 'lfo'],
      ],
      ['l.sine > r.in'],
    )
    expect(held.length).toBe(1)
    const clocked = lanes(
      'random',
      'stepped',
      {},
      [
        ['f', 'filter'],
        ['l', 'lfo'],
      ],
      ['l.square > r.clock'],
    )
    expect(clocked.length).toBe(1)
    expect(lanes('random', 'stepped', {}, [['f', 'filter']], ['n.gate > r.clock']).length).toBe(3)
  })

  it('ends where two random sources feed each other', () => {
    expect(
      lanes(
        'hold',
        'out',
        {},
        [
          ['f', 'filter'],
          ['d', 'drift'],
        ],
        ['d.out > r.rate', 'r.out > d.rate'],
      ).length,
    ).toBe(3)
  })

  it('draws for each side of a voice by itself', () => {
    const clock = Float32Array.from({ length: 9600 }, (_, i) => (i % 960 < 480 ? 1 : 0))
    const heard = hear(
      patchOf(
        [
          ['i', 'input'],
          ['h', 'hold'],
        ],
        ['i.out > h.clock'],
      ),
      0.2,
      { input: { rate: 48000, channels: [clock, clock] }, taps: ['h.out'] },
    ).lanes('h.out')
    expect(heard.length).toBe(2)
    expect(heard[1]![5000]).not.toBe(heard[0]![5000])
  })
})
