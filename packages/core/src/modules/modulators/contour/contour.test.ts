import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('contour', {
  inputs: 'gate trigger',
  outputs: 'out end',
  params: 'length sync mode scale',
  data: 'points',
})

describe('contour', () => {
  const points = [
    { t: 0, v: 0 },
    { t: 0.5, v: 1 },
    { t: 0.75, v: 0.5 },
    { t: 1, v: -1 },
  ]

  it('draws its points over its length, once, held or looped', () => {
    const run = (mode: string): Float32Array =>
      hear(
        patchOf(
          [
            ['n', 'notes'],
            ['c', 'contour', { length: 0.4, mode }, { data: { points } }],
          ],
          ['n.gate > c.gate'],
        ),
        2,
        { play: '60@0+1', taps: ['c.out'] },
      ).tap('c.out')
    const once = run('once')
    expect(once[4800]).toBeCloseTo(0.5, 2)
    expect(once[9600]).toBeCloseTo(1, 2)
    expect(once[19300]).toBeCloseTo(-1, 2)
    expect(run('loop')[19200 + 9600]).toBeCloseTo(1, 2)
    const held = run('sustain')
    expect(held[40000]).toBeCloseTo(0.5, 2)
    expect(held[48000 + 4900]).toBeCloseTo(-1, 1)
  })

  it('follows the beat when synced', () => {
    const x = hear(
      patchOf(
        [
          ['n', 'notes'],
          ['c', 'contour', { length: 2, sync: true }, { data: { points } }],
        ],
        ['n.gate > c.gate'],
        { tempo: 60 },
      ),
      2.5,
      { play: '60@0+2', taps: ['c.out'] },
    ).tap('c.out')
    expect(x[48000]).toBeCloseTo(1, 2)
  })
})
