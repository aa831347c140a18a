import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('split', {
  inputs: 'in',
  outputs: 'left right',
  params: '',
})

describe('split', () => {
  it('takes the sides of every voice apart', () => {
    const heard = hear(
      patchOf(
        [
          ['n', 'notes', { voices: 5, mode: 'poly' }],
          ['a', 'value', { value: 1 }],
          ['j', 'join'],
          ['s', 'split'],
        ],
        ['n.voice > j.left', 'a.out > j.right', 'j.out > s.in'],
      ),
      0.01,
      { taps: ['s.left', 's.right'] },
    )
    const at = (port: string): number[] => heard.lanes(port).map((x) => Math.round(x[100]! * 1e4) / 1e4 + 0)
    expect(at('s.left')).toEqual([0, 1, 2, 3, 4])
    expect(at('s.right')).toEqual([1, 1, 1, 1, 1])
  })
})
