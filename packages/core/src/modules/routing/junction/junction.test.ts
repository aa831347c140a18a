import { describe, expect, it } from 'vitest'
import { given } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('junction', {
  inputs: 'left right',
  outputs: 'toleft toright',
  params: 'reflection form',
})

describe('junction', () => {
  it('keeps what comes in, as pressure or as power', () => {
    expect(given('junction', { reflection: 0.3 }, { left: 1, right: 0.5 }, ['toleft', 'toright'])).toEqual([
      0.65, 1.15,
    ])
    const [left, right] = given(
      'junction',
      { reflection: 0.3, form: 'normalised' },
      { left: 1, right: 0.5 },
      ['toleft', 'toright'],
    )
    expect(left! ** 2 + right! ** 2).toBeCloseTo(1.25, 4)
  })
})
