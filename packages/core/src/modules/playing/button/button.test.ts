import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { rises, onFor } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('button', {
  inputs: '',
  outputs: 'gate trigger',
  params: 'mode on key',
})

describe('button', () => {
  it('is on while it is set, and triggers when it goes on', () => {
    const heard = hear(patchOf([['b', 'button']], []), 0.3, {
      events: [
        { t: 0.1, type: 'param', target: 'b.on', value: true },
        { t: 0.2, type: 'param', target: 'b.on', value: false },
      ],
      taps: ['b.gate', 'b.trigger'],
    })
    const gate = heard.tap('b.gate')
    expect(rises(gate)).toEqual([4800])
    expect([gate[9599], gate[9600]]).toEqual([1, 0])
    expect(rises(heard.tap('b.trigger'))).toEqual([4800])
    expect(onFor(heard.tap('b.trigger'), 4800)).toBe(48)
  })
})
