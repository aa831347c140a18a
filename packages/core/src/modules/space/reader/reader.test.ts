/** A reader has the shape of its buffer; the rest of what it does is tested with the buffer. */
import { expect, it } from 'vitest'
import { compiled } from '../../../compile/compiled.ts'
import { patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('reader', {
  inputs: 'trigger offset',
  outputs: 'out end',
  params: 'loop level name position speed interpolation',
})

it('has the voices and sides of its buffer', () => {
  const result = compiled(
    patchOf(
      [
        ['n', 'notes', { voices: 3 }],
        ['s', 'oscillator'],
        ['b', 'buffer', { name: 'quay' }],
        ['r', 'reader', { name: 'quay' }],
        ['o', 'output'],
      ],
      ['n.pitch > s.pitch', 's.saw > b.in', 'n.gate > b.record', 'r.out > o.in'],
    ),
  )
  if (!result.ok) throw new Error(result.faults[0]!.message)
  const [buffer, reader] = ['b', 'r'].map((id) => result.plan.modules.find((module) => module.id === id)!)
  expect([reader!.voices, reader!.sides]).toEqual([buffer!.voices, buffer!.sides])
  expect(reader!.voices).toBe(3)
})
