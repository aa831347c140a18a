/** Paths that meet are as late as each other, whatever is on the way; what nothing delays is left alone. */
import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../catalogue.ts'
import { adviseOn } from '../advice/advise.ts'
import { RATE } from '../testing/effects.ts'
import { hear, patchOf } from '../testing/bench.ts'
import { largest } from '../testing/measure.ts'
import { Live } from '../testing/live.ts'
import { compile } from './compile.ts'

const planOf = (patch: Parameters<typeof compile>[0], sampleRate = RATE) => {
  const result = compile(patch, { sampleRate })
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return result.plan
}
/** The direct sound, late by so many samples. */
const LATENESS = 96
const LATE = ['d', 'flanger', { zero: true, time: 2, depth: 0, mix: 0 }] as const

const ramp = Float32Array.from({ length: RATE / 10 }, (_, n) => Math.sin(n * n * 1e-5) / 4)
const heardAt = (
  modules: readonly (readonly [string, string, Record<string, number | string | boolean>?])[],
  cables: string[],
  tap: string,
) =>
  hear(patchOf([['i', 'input'], ...modules, ['o', 'output']], cables), ramp.length / RATE, {
    input: { rate: RATE, channels: [ramp, ramp] },
    taps: [tap],
  }).lanes(tap)[0]!

/** Largest difference from the input times a factor, so many samples late. */
const apart = (heard: Float32Array, factor: number, late: number): number =>
  largest(heard.map((x, n) => x - factor * (ramp[n - late] ?? 0)))

describe('paths of which one is late', () => {
  it('meet at an input', () => {
    const sum = heardAt([LATE, ['a', 'amplifier']], ['i.out > d.in', 'd.out > a.in', 'i.out > a.in'], 'a.out')
    expect(apart(sum, 2, LATENESS)).toBeLessThan(1e-6)
  })

  it.each(['mix', 'crossfade', 'mixer', 'join', 'switch'])('meet in a module that adds: %s', (type) => {
    const [a, b] =
      type === 'mixer' || type === 'mix' || type === 'switch'
        ? ['in1', 'in2']
        : type === 'join'
          ? ['left', 'right']
          : ['a', 'b']
    const plan = planOf(
      patchOf(
        [['i', 'input'], LATE, ['m', type], ['o', 'output']],
        ['i.out > d.in', `d.out > m.${a}`, `i.out > m.${b}`, 'm.out > o.in'],
      ),
    )
    expect(plan.latency).toEqual({
      samples: LATENESS,
      heldBack: [{ from: 'i.out', to: `m.${b}`, samples: LATENESS }],
    })
  })

  it('meet in crossfade, and are heard together', () => {
    const sum = heardAt(
      [LATE, ['m', 'crossfade', { law: 'linear', position: 0.5 }]],
      ['i.out > d.in', 'd.out > m.a', 'i.out > m.b'],
      'm.out',
    )
    expect(apart(sum, 1, LATENESS)).toBeLessThan(1e-6)
  })

  it('meet through buses, groups and what is bypassed', () => {
    const sum = heardAt(
      [LATE, ['x', 'busin', { bus: 'b' }], ['y', 'busout', { bus: 'b' }], ['a', 'amplifier']],
      ['i.out > d.in', 'd.out > x.in', 'i.out > x.in', 'y.out > a.in'],
      'a.out',
    )
    expect(apart(sum, 2, LATENESS)).toBeLessThan(1e-6)
  })

  it('add up along the way, and meet at the outputs', () => {
    const patch = patchOf(
      [
        ['i', 'input'],
        ['l', 'limiter'],
        ['f', 'flanger', { zero: true, time: 2, depth: 0, mix: 0 }],
        ['o', 'output', { level: 0 }],
        ['p', 'output', { level: 0 }],
      ],
      ['i.out > l.in', 'l.out > f.in', 'f.out > o.in', 'i.out > p.in'],
    )
    const limiter = CATALOGUE.get('limiter')!
    const own = limiter.description.latency!({
      sampleRate: RATE,
      number: (name) => Number(limiter.params.get(name)!.default),
      choice: (name) => String(limiter.params.get(name)!.default),
    })
    const { latency } = planOf(patch)
    expect(latency.samples).toBe(own + 96)
    expect(latency.heldBack).toEqual([{ from: 'i.out', to: 'p.in', samples: own + 96 }])
    // Both together, taken off the render: the sound twice, from its first sample on.
    const quiet = ramp.map((x) => x / 4)
    const heard = hear(patch, ramp.length / RATE, { input: { rate: RATE, channels: [quiet, quiet] } })
    const plain = hear(
      patchOf(
        [
          ['i', 'input'],
          ['o', 'output', { level: 0 }],
        ],
        ['i.out > o.in'],
      ),
      ramp.length / RATE,
      {
        input: { rate: RATE, channels: [quiet, quiet] },
      },
    )
    const left = heard.out,
      one = plain.out
    expect(largest(left.map((x, n) => x - 2 * one[n]!).subarray(0, ramp.length - 400))).toBeLessThan(2e-4)
  })

  it('are left alone in loops, and loops count for nothing', () => {
    const plan = planOf(
      patchOf(
        [
          ['i', 'input'],
          ['a', 'amplifier', { level: -12 }],
          ['d', 'drive'],
          ['w', 'delayline'],
          ['o', 'output'],
        ],
        ['i.out > a.in', 'a.out > d.in', 'd.out > w.in', 'w.out > a.in', 'a.out > o.in'],
      ),
    )
    expect(plan.latency).toEqual({ samples: 0, heldBack: [] })
    // Two ways into a loop meet there.
    const into = planOf(
      patchOf(
        [['i', 'input'], LATE, ['a', 'amplifier', { level: -12 }], ['w', 'delayline'], ['o', 'output']],
        ['i.out > d.in', 'd.out > a.in', 'i.out > a.in', 'a.out > w.in', 'w.out > a.in', 'a.out > o.in'],
      ),
    )
    expect(into.latency.heldBack).toEqual([{ from: 'i.out', to: 'a.in', samples: LATENESS }])
  })

  it('do not hold back what moves a parameter, a gate or a pitch, nor what such a thing feeds', () => {
    const plan = planOf(
      patchOf(
        [['i', 'input'], LATE, ['f', 'follower'], ['a', 'amplifier'], ['v', 'amplifier'], ['o', 'output']],
        [
          'i.out > d.in',
          'd.out > f.in',
          'f.env > a.cv',
          'i.out > a.in',
          'a.out > o.in',
          'i.out > v.in',
          'v.out > o.in',
        ],
      ),
    )
    expect(plan.latency).toEqual({ samples: 0, heldBack: [] })
  })

  it('take the default of a time that a formula gives', () => {
    const plan = planOf(
      patchOf(
        [
          ['i', 'input'],
          ['l', 'flanger', { zero: true, time: '= 2 + i.out' }],
          ['f', 'flanger', { zero: true, time: 5 }],
          ['o', 'output'],
        ],
        ['i.out > l.in', 'i.out > f.in', 'l.out > o.in', 'f.out > o.in'],
      ),
    )
    expect(plan.latency).toEqual({ samples: 240, heldBack: [{ from: 'l.out', to: 'o.in', samples: 96 }] })
  })

  it('costs nothing where nothing is late', () => {
    const plan = planOf(
      patchOf(
        [
          ['i', 'input'],
          ['a', 'amplifier'],
          ['o', 'output'],
        ],
        ['i.out > a.in', 'i.out > o.in', 'a.out > o.in'],
      ),
    )
    expect(plan.modules.map(({ id }) => id)).toEqual(['i', 'a', 'o'])
  })

  it('are named by the check', () => {
    const patch = patchOf(
      [['i', 'input'], LATE, ['o', 'output']],
      ['i.out > d.in', 'd.out > o.in', 'i.out > o.in'],
    )
    expect(adviseOn(patch, planOf(patch)).latency).toEqual({
      samples: LATENESS,
      heldBack: [{ from: 'i.out', to: 'o.in', samples: LATENESS }],
    })
  })
})

describe('a path that becomes late while it plays', () => {
  const source = ['s', 'oscillator', { tracking: false, frequency: 110, level: 0.2 }] as const
  const patchWith = (type: string, params: Record<string, number | boolean> = {}) =>
    patchOf(
      [source, ['a', 'amplifier'], [type, type, params], ['o', 'output', { level: 0 }]],
      ['s.sine > a.in', 'a.out > o.in', `s.sine > ${type}.in`, `${type}.out > o.in`],
    )
  const latePaths = patchWith('flanger', { zero: true, time: 2, depth: 0, mix: 0 }),
    laterPaths = patchWith('limiter'),
    plainPaths = patchWith('equalizer')

  it.each([
    ['comes', plainPaths, latePaths],
    ['goes', latePaths, plainPaths],
    ['changes', latePaths, laterPaths],
    [
      'loses a cable',
      laterPaths,
      { ...laterPaths, cables: laterPaths.cables.filter(({ to }) => to !== 'limiter.in') },
    ],
    [
      'is bypassed',
      laterPaths,
      {
        ...laterPaths,
        modules: laterPaths.modules.map((m) => (m.id === 'limiter' ? { ...m, bypass: true } : m)),
      },
    ],
  ])('does not click where it %s', (_, before, after) => {
    const live = new Live(before)
    live.run(0.25)
    live.change(() => after)
    live.run(0.25)
    const out = live.out.slice(2000)
    const step = largest(Float32Array.from(out, (x, n) => (n ? x - out[n - 1]! : 0)))
    // Two sines of 0.2 at 110 Hz: 0.0058 a sample at the most; a jump would be many times that.
    expect(step).toBeLessThan(0.0075)
    expect(step).toBeGreaterThan(0.004)
  })

  it('follows a time that its latency hangs on', () => {
    const live = new Live(patchWith('flanger', { zero: true, time: 2, depth: 0 }))
    live.run(0.0833)
    expect(live.planner.plan!.latency.samples).toBe(96)
    live.change(() => patchWith('flanger', { zero: true, time: 4, depth: 0 }))
    live.run(0.0833)
    expect(live.planner.plan!.latency.samples).toBe(192)
  })
})
