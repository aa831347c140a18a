import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('stereo', {
  inputs: 'in',
  outputs: 'out mid side',
  params: 'width rotate swap',
})

describe('stereo', () => {
  it('narrows to the middle and swaps sides', () => {
    const heard = hear(
      patchOf(
        [
          ['n', 'notes', { voices: 5, mode: 'poly' }],
          ['a', 'value', { value: 1 }],
          ['j', 'join'],
          ['w', 'stereo', { width: 0 }],
          ['x', 'stereo', { swap: true }],
        ],
        ['n.voice > j.left', 'a.out > j.right', 'j.out > w.in', 'j.out > x.in'],
      ),
      0.01,
      { taps: ['w.out', 'x.out'] },
    )
    const at = (port: string): number[] => heard.lanes(port).map((x) => Math.round(x[100]! * 1e4) / 1e4 + 0)
    expect(at('w.out')).toEqual([0.5, 0.5, 1, 1, 1.5, 1.5, 2, 2, 2.5, 2.5])
    expect(at('x.out').slice(0, 4)).toEqual([1, 0, 1, 1])
  })
})
