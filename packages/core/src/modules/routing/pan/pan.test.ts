import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('pan', {
  inputs: 'in',
  outputs: 'out',
  params: 'pan law',
})

describe('pan', () => {
  it('is all on one side at its ends, and follows its law between', () => {
    const heard = hear(
      patchOf(
        [
          ['a', 'value', { value: 1 }],
          ['p', 'pan', { pan: -1 }],
          ['q', 'pan', { law: 'linear', pan: 0.5 }],
          ['r', 'pan'],
        ],
        ['a.out > p.in', 'a.out > q.in', 'a.out > r.in'],
      ),
      0.01,
      { taps: ['p.out', 'q.out', 'r.out'] },
    )
    const at = (port: string): number[] => heard.lanes(port).map((x) => Math.round(x[100]! * 1e4) / 1e4 + 0)
    expect(at('p.out')).toEqual([1, 0])
    expect(at('q.out')).toEqual([0.25, 0.75])
    expect(at('r.out')).toEqual([0.7071, 0.7071])
  })
})
