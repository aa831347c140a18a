import { describe, expect, it } from 'vitest'
import { compiled } from '../../../compile/compiled.ts'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('mixer', {
  inputs: 'in1 in2 in3 in4 in5 in6 in7 in8 returnA returnB',
  outputs: 'out sendA sendB',
  params:
    'level1 pan1 mute1 solo1 invert1 low1 mid1 high1 sendA1 sendB1 level2 pan2 mute2 solo2 invert2 low2 mid2 high2 sendA2 sendB2 level3 pan3 mute3 solo3 invert3 low3 mid3 high3 sendA3 sendB3 level4 pan4 mute4 solo4 invert4 low4 mid4 high4 sendA4 sendB4 level5 pan5 mute5 solo5 invert5 low5 mid5 high5 sendA5 sendB5 level6 pan6 mute6 solo6 invert6 low6 mid6 high6 sendA6 sendB6 level7 pan7 mute7 solo7 invert7 low7 mid7 high7 sendA7 sendB7 level8 pan8 mute8 solo8 invert8 low8 mid8 high8 sendA8 sendB8 level gain',
})

describe('mixer', () => {
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

  it('sends and gets back without a loop: an effect on a send comes back in the same frame', () => {
    const x = Float32Array.from({ length: 4800 }, (_, n) => Math.sin(n * n * 1e-4) / 2)
    const patch = patchOf(
      [
        ['i', 'input'],
        ['m', 'mixer', { sendA1: 1, level: 0 }],
        ['e', 'amplifier', { level: -6.0206 }],
        ['o', 'output'],
      ],
      ['i.out > m.in1', 'm.sendA > e.in', 'e.out > m.returnA', 'm.out > o.in'],
    )
    const result = compiled(patch)
    if (!result.ok) throw new Error(result.faults[0]!.message)
    expect(result.plan.loops).toEqual([])
    const [left] = hear(patch, 0.1, { input: { rate: 48000, channels: [x, x] }, taps: ['m.out'] }).lanes(
      'm.out',
    )
    // The channel, at -3 dB a side in the middle, and half of it again.
    const most = left!.reduce((worst, y, n) => Math.max(worst, Math.abs(y - 1.5 * Math.SQRT1_2 * x[n]!)), 0)
    expect(most).toBeLessThan(1e-5)
  })
})
