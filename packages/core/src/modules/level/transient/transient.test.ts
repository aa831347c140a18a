import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { db, rms } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('transient', {
  inputs: 'in',
  outputs: 'out',
  params: 'attack sustain mix',
})

const peak = (x: Float32Array): number => x.reduce((most, v) => Math.max(most, Math.abs(v)), 0)
const tone = (level: number, hz = 1000): readonly [string, string, Record<string, number | boolean>] => [
  'o',
  'oscillator',
  { tracking: false, frequency: hz, level },
]

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

describe('transient', () => {
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
