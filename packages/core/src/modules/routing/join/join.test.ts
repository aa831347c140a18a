import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('join', {
  inputs: 'left right',
  outputs: 'out',
  params: '',
})

describe('join', () => {
  it('makes the sides of every voice of two signals', () => {
    const heard = hear(
      patchOf(
        [
          ['n', 'notes', { voices: 5, mode: 'poly' }],
          ['a', 'value', { value: 1 }],
          ['j', 'join'],
        ],
        ['n.voice > j.left', 'a.out > j.right'],
      ),
      0.01,
      { taps: ['j.out'] },
    )
    const at = (port: string): number[] => heard.lanes(port).map((x) => Math.round(x[100]! * 1e4) / 1e4 + 0)
    expect(at('j.out')).toEqual([0, 1, 1, 1, 2, 1, 3, 1, 4, 1])
  })
})
