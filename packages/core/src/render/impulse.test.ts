/** The response of a path against what its modules say in closed form. */
import { describe, expect, it } from 'vitest'
import { responseOf } from '../analysis/response.ts'
import { patchOf } from '../testing/bench.ts'
import { testKernels } from '../testing/kernels.ts'
import { impulseResponse } from './impulse.ts'

const patch = patchOf(
  [
    ['n', 'notes'],
    ['osc', 'oscillator', { tracking: false, frequency: 220 }],
    ['line', 'delayline', { unit: 'samples', time: 480 }],
    ['low', 'filter', { cutoff: 1000, resonance: 0 }],
    ['hall', 'reverb', { model: 'room', decay: 0.8, mix: 1, motion: 0, early: 0 }],
    ['level', 'amplifier', { level: -6 }],
    ['o', 'output'],
  ],
  ['osc.saw > line.in', 'line.out > low.in', 'low.low > level.in', 'level.out > o.in', 'low.low > hall.in'],
)
const response = (from: string, to: string, seconds = 0.5, level = 1) => {
  const impulse = impulseResponse(testKernels(), patch, { from, to, seconds, level })
  if (!impulse.ok) throw new Error(impulse.faults[0]!.message)
  return { impulse, ...responseOf(impulse.channels, impulse.rate) }
}

describe('the response of a path', () => {
  it('is the delay itself: flat, late by its samples, its phase a straight line', () => {
    const { impulse, magnitude, groupDelay, phase, binHz } = response('line.in', 'line.out')
    const at = [...impulse.channels[0]!.keys()].filter((n) => Math.abs(impulse.channels[0]![n]!) > 1e-6)
    expect(at).toEqual([480])
    for (const k of [1, 10, 500, 4000]) {
      expect(magnitude[k]).toBeCloseTo(0, 3)
      expect(groupDelay[k]).toBeCloseTo(0.01, 6)
      expect(phase[k]).toBeCloseTo(-2 * Math.PI * 0.01 * k * binHz, 2)
    }
  })

  it('hears the path alone, though an oscillator plays, and whatever the level of the click', () => {
    for (const level of [1, 0.01]) {
      const { magnitude, binHz } = response('line.in', 'level.out', 0.5, level)
      const at = (hz: number): number => magnitude[Math.round(hz / binHz)]!
      expect(at(50)).toBeCloseTo(-6, 0)
      // Two poles: 12 dB an octave, far above.
      expect(at(4000) - at(8000)).toBeGreaterThan(11)
      expect(at(1000) - at(50)).toBeLessThan(-2)
    }
  })

  it('says decay by octave and echo density of a room', () => {
    const { decays, density } = response('hall.in', 'hall.out', 2)
    const at = decays.find(({ hz }) => hz === 1000)!
    expect(Math.abs(at.seconds / 0.8 - 1)).toBeLessThan(0.12)
    expect(Math.max(...density.slice(3, 20))).toBeGreaterThan(0.8)
  })

  it('is the same by a click, a sweep and a step, and a step comes out as it is', () => {
    const by = (excitation: 'click' | 'sweep' | 'step') => {
      const impulse = impulseResponse(testKernels(), patch, {
        from: 'low.in',
        to: 'level.out',
        seconds: 2.5,
        excitation,
      })
      if (!impulse.ok) throw new Error(impulse.faults[0]!.message)
      return { ...impulse, ...responseOf(impulse.channels, impulse.rate) }
    }
    const click = by('click'),
      sweep = by('sweep'),
      step = by('step')
    for (const hz of [60, 250, 1000, 4000, 9000]) {
      const k = Math.round(hz / click.binHz)
      expect(sweep.magnitude[k]).toBeCloseTo(click.magnitude[k]!, 1)
      expect(Math.abs(step.magnitude[k]! - click.magnitude[k]!)).toBeLessThan(0.3)
      expect(Math.abs(sweep.groupDelay[k]! - click.groupDelay[k]!)).toBeLessThan(2e-5)
    }
    // A low-pass at −6 dB ends where it began to go.
    expect(step.answer[0]!.at(-1)).toBeCloseTo(10 ** (-6 / 20), 4)
  })

  it('says what is not there', () => {
    const missing = impulseResponse(testKernels(), patch, { from: 'nobody.in', to: 'low.low', seconds: 0.1 })
    expect(missing.ok ? [] : missing.faults).toEqual([
      { place: 'nobody.in', message: 'there is no such module outside of groups' },
    ])
    const port = impulseResponse(testKernels(), patch, { from: 'line.sideways', to: 'low.low', seconds: 0.1 })
    expect(port.ok).toBe(false)
  })

  it('does not move what it measures: the response of a mono path is one of 0 dB at all rates', () => {
    for (const sampleRate of [44100, 48000, 96000]) {
      const impulse = impulseResponse(testKernels(), patch, {
        from: 'level.in',
        to: 'level.out',
        seconds: 0.05,
        sampleRate,
      })
      if (!impulse.ok) throw new Error(impulse.faults[0]!.message)
      expect(impulse.rate).toBe(sampleRate)
      expect(impulse.channels[0]![0]).toBeCloseTo(10 ** (-6 / 20), 5)
    }
  })
})
