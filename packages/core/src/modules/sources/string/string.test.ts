import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { amplitudes, centsBetween, db, frequencyOf, rms } from '../../../testing/measure.ts'
import { hzOf } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('string', {
  inputs: 'pitch gate excite',
  outputs: 'out',
  params:
    'decay damping position stiffness coupled coupling1 coupling2 coupling3 coupleTune1 coupleTune2 coupleTune3 pluck level',
})

const SIZE = 65536

describe('string', () => {
  it.each([0, 1, 3])('is in tune from A0 to C7 with %s coupled strings', (coupled) => {
    for (const stiffness of [0, 0.4]) {
      for (const note of [21, 33, 45, 60, 72, 84, 96]) {
        const out = hear(
          patchOf(
            [
              ['n', 'notes'],
              ['s', 'string', { coupled, decay: 8, stiffness }],
            ],
            ['n.pitch > s.pitch', 'n.gate > s.gate'],
          ),
          3,
          { play: `${note}@0+3`, taps: ['s.out'] },
        ).tap('s.out')
        expect(
          Math.abs(centsBetween(frequencyOf(out, hzOf(note), 48000, 12000, 120000), hzOf(note))),
          `note ${note} stiffness ${stiffness}`,
        ).toBeLessThan(0.5)
        expect(out.every((x) => Math.abs(x) < 6)).toBe(true)
      }
    }
  })

  it('decays by 60 dB in its decay time', () => {
    const out = hear(
      patchOf(
        [
          ['n', 'notes'],
          ['s', 'string', { decay: 1, damping: 0.2 }],
        ],
        ['n.pitch > s.pitch', 'n.gate > s.gate'],
      ),
      2,
      { play: '48@0+2', taps: ['s.out'] },
    ).tap('s.out')
    const level = (at: number): number => {
      const a = amplitudes(out, 8192, at),
        bin = Math.round((hzOf(48) * 8192) / 48000)
      return db(Math.max(a[bin - 1]!, a[bin]!, a[bin + 1]!))
    }
    expect(level(9600) - level(9600 + 24000)).toBeCloseTo(30, 0)
  })

  it('plucked in the middle it lacks the even partials', () => {
    const out = hear(
      patchOf(
        [
          ['n', 'notes'],
          ['s', 'string', { position: 0.5, damping: 0 }],
        ],
        ['n.pitch > s.pitch', 'n.gate > s.gate'],
      ),
      2,
      { play: '48@0+2', taps: ['s.out'] },
    ).tap('s.out')
    const a = amplitudes(out, SIZE, 4800),
      at = (n: number): number =>
        Math.max(
          ...Array.from(
            a.subarray(
              Math.round((hzOf(48) * n * SIZE) / 48000) - 4,
              Math.round((hzOf(48) * n * SIZE) / 48000) + 5,
            ),
          ),
        )
    expect(db(at(2) / at(1))).toBeLessThan(-35)
    expect(db(at(4) / at(3))).toBeLessThan(-25)
  })

  it('falls silent in the end and wakes again', () => {
    const out = hear(
      patchOf(
        [
          ['n', 'notes'],
          ['s', 'string', { decay: 0.1 }],
        ],
        ['n.pitch > s.pitch', 'n.gate > s.gate'],
      ),
      4,
      { play: '60@0+0.2 60@3+0.2', taps: ['s.out'] },
    ).tap('s.out')
    expect(out.subarray(110000, 143999).every((x) => x === 0)).toBe(true)
    expect(rms(out, 144000, 150000)).toBeGreaterThan(0.05)
  })
})

describe('string', () => {
  it('a stiffness barely above 0 changes a string barely', () => {
    const pluck = (stiffness: number): Float32Array =>
      hear(
        patchOf(
          [
            ['n', 'notes'],
            ['s', 'string', { stiffness }],
          ],
          ['n.pitch > s.pitch', 'n.gate > s.gate'],
        ),
        0.5,
        { play: '52@0+0.5', taps: ['s.out'] },
      ).tap('s.out')
    const [none, barely] = [pluck(0), pluck(1e-6)]
    const apart = none!.map((x, i) => x - barely![i]!)
    expect(rms(apart) / rms(none!)).toBeLessThan(1e-3)
  })
})
