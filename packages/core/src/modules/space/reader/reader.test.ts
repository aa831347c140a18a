/** Readers: where they stand and what they see of their buffer. */
import { describe, expect, it } from 'vitest'
import { compile } from '../../../compile/compile.ts'
import { compiled } from '../../../compile/compiled.ts'
import { hear, patchOf } from '../../../testing/bench.ts'
import { RATE, sine } from '../../../testing/effects.ts'
import { looper, noise, type Params, press } from '../../../testing/looper.ts'
import { hzBetween, largest } from '../../../testing/measure.ts'
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

describe('reader', () => {
  const tapped = (
    params: Params,
    cables: readonly string[] = [],
    modules: Parameters<typeof patchOf>[0] = [],
    play = press('record', 0, 1),
    sound = noise(4),
  ): Float32Array =>
    looper(
      sound,
      play,
      {},
      {
        modules: [['r', 'reader', params], ['v', 'value', { value: 0.01 }], ['p', 'output'], ...modules],
        cables: ['r.out > p.in', ...cables],
        taps: ['r.out'],
      },
    )('r.out')[0]!

  it('stands behind the head by exactly what offset says, one sample at least', () => {
    const x = noise(4)
    for (const [seconds, frames] of [
      [0.01, 480],
      [0.7, 33600],
      [0, 1],
      [-1, 1],
    ] as const) {
      const other = looper(
        x,
        press('record', 0, 3.5),
        {},
        {
          modules: [
            ['r', 'reader'],
            ['v', 'value', { value: seconds }],
            ['p', 'output'],
          ],
          cables: ['r.out > p.in', 'v.out > r.offset'],
          taps: ['r.out'],
        },
      )('r.out')[0]!
      expect(other.subarray(RATE, RATE + 2000)).toEqual(x.subarray(RATE - frames, RATE - frames + 2000))
    }
  })

  it('plays the loop at its own place and speed, whatever the buffer does', () => {
    const x = noise(4),
      plain = tapped({ position: 0.5 }, [], [], press('record', 0, 1), x)
    // It began to move while the loop was recorded; from then on it repeats with the loop's length.
    expect(plain.subarray(2.2 * RATE, 2.8 * RATE)).toEqual(plain.subarray(3.2 * RATE, 3.8 * RATE))
    const half = tapped({ speed: 0.5 }, [], [], press('record', 0, 1), sine(600, 4))
    expect(hzBetween(half, 2.1, 2.4)).toBeCloseTo(300, 0)
  })

  it('sees only what was there before its own sample, in one block or in many', () => {
    // A note elsewhere cuts blocks: the same sound has to come.
    const x = noise(4),
      play = `${press('record', 0, 1)} ${press('record', 1.3, 1)}`
    const cut = ` ${Array.from({ length: 60 }, (_, n) => `70@${1 + 0.0373 * n}+0.011`).join(' ')}`
    for (const params of [{ position: 0.1, speed: 1.02 }, { position: 0, speed: 0 }, { speed: -1 }])
      expect(tapped(params, [], [['n', 'notes']], play + cut, x)).toEqual(
        tapped(params, [], [['n', 'notes']], play, x),
      )
  })

  it('feeds its buffer through a loop, every round softer', () => {
    const x = Float32Array.from({ length: 4 * RATE }, (_, n) => (n === 2000 ? 1 : 0))
    const heard = tapped({}, ['v.out > r.offset', 'r.out > b.in * 0.5'], [], press('record', 0, 3.5), x)
    const peaks = [...heard.keys()].filter((n) => Math.abs(heard[n]!) > 0.05)
    expect(peaks.slice(0, 3).map((n) => n - 2000)).toEqual([480, 961, 1442])
    expect(heard[2961]).toBeCloseTo(0.5, 5)
  })

  it('says who is missing, and which name is there twice', () => {
    const twice = compile(
      patchOf(
        [
          ['a', 'buffer'],
          ['b', 'buffer'],
          ['o', 'output'],
        ],
        ['a.out > o.in', 'b.out > o.in'],
      ),
    )
    expect(twice.ok ? [] : twice.faults).toEqual([
      { place: 'b.name', message: '"tape" is already the name of a. Give one of them another name' },
    ])
    expect(
      largest(
        hear(
          patchOf(
            [
              ['r', 'reader', { name: 'nobody' }],
              ['o', 'output'],
            ],
            ['r.out > o.in'],
          ),
          0.2,
        ).out,
      ),
    ).toBe(0)
  })
})
