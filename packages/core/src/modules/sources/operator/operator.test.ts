import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { worstAlias, centsBetween, frequencyOf } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('operator', {
  inputs: 'pitch gate velocity phase hz reset',
  outputs: 'out env',
  params:
    'ratio fine fixed frequency shape feedback level envelope attack decay sustain release velocityAmount',
})

const heard = (params: Record<string, number | string | boolean>, seconds = 2): Float32Array =>
  hear(patchOf([['o', 'operator', { fixed: true, envelope: false, ...params }]], []), seconds, {
    taps: ['o.out'],
  }).tap('o.out')

describe('operator', () => {
  it.each(['half', 'full', 'pulse', 'saw'])('%s keeps aliases down', (shape) => {
    for (const hz of [65.4, 261.7, 1000.3])
      // A full wave repeats twice a cycle.
      expect(
        worstAlias(heard({ frequency: hz, shape }), shape === 'full' ? 2 * hz : hz),
        `${hz}`,
      ).toBeLessThan(-85)
  })

  it('stays a tone up to full feedback', () => {
    for (const [hz, most] of [
      [27.5, -90],
      [55, -80],
      [220.3, -70],
      [440.7, -60],
    ] as const)
      for (const feedback of [0.3, 0.7, 1])
        expect(
          worstAlias(heard({ frequency: hz, feedback }, 4), hz, { loudest: true, size: 131072 }),
          `${hz} ${feedback}`,
        ).toBeLessThan(most)
  })
})

describe('operator', () => {
  it('feedback stays bounded and in tune up to full', () => {
    for (const feedback of [0.3, 0.7, 1]) {
      const out = hear(
        patchOf([['o', 'operator', { fixed: true, frequency: 220, envelope: false, feedback }]], []),
        2,
        { taps: ['o.out'] },
      ).tap('o.out')
      expect(out.every((x) => Math.abs(x) <= 1.001)).toBe(true)
      if (feedback < 1)
        expect(Math.abs(centsBetween(frequencyOf(out, 220, 48000, 9600, 76800), 220))).toBeLessThan(0.1)
    }
  })
})

describe('operator', () => {
  it('follows its envelope and rests when it is over', () => {
    const heard = hear(
      patchOf(
        [
          ['n', 'notes'],
          ['o', 'operator', { attack: 0.01, decay: 0.1, sustain: 0.5, release: 0.05 }],
        ],
        ['n.pitch > o.pitch', 'n.gate > o.gate'],
      ),
      1,
      { play: '60@0.1+0.5', taps: ['o.env', 'o.out'] },
    )
    const env = heard.tap('o.env')
    expect(env[4800 + 480]).toBeCloseTo(1, 2)
    expect(env[4800 + 480 + 4800]).toBeCloseTo(0.5, 2)
    expect(env[28000]).toBeCloseTo(0.5, 4)
    expect(env[28800 + 2402]).toBe(0)
    expect(
      heard
        .tap('o.out')
        .subarray(32000)
        .every((x) => x === 0),
    ).toBe(true)
    expect(
      heard
        .tap('o.out')
        .subarray(0, 4800)
        .every((x) => x === 0),
    ).toBe(true)
  })
})
