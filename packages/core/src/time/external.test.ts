import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../testing/bench.ts'
import type { PlayerEvent } from '../notes/events.ts'

const rises = (x: ArrayLike<number>): number[] => {
  const list: number[] = []
  for (let i = 1; i < x.length; i += 1) if (x[i]! > 0.5 && !(x[i - 1]! > 0.5)) list.push(i)
  return list
}

/** Ticks of a clock at a tempo, each late by up to `jitter` seconds. */
const ticks = (bpm: number, seconds: number, jitter: number): PlayerEvent[] => {
  let seed = 12345
  const next = (): number => {
    seed = (Math.imul(seed, 1103515245) + 12345) >>> 0
    return seed / 4294967296
  }
  const gap = 60 / bpm / 24
  return [
    { t: 0.1, type: 'clock', value: 'start' },
    ...Array.from({ length: Math.floor((seconds - 0.2) / gap) }, (_, n): PlayerEvent => ({
      t: 0.1 + n * gap + jitter * next(),
      type: 'clock',
      value: 'tick',
    })),
  ]
}

describe('a clock from outside', () => {
  const patch = patchOf([['c', 'clock', { source: 'external', division1: '1/16' }]], [])
  it('is followed exactly when it is steady', () => {
    const heard = hear(patch, 6, { events: ticks(120, 6, 0), taps: ['c.beat', 'c.div1', 'c.run'] })
    const beats = rises(heard.tap('c.beat'))
    expect(beats.length).toBeGreaterThan(9)
    beats.forEach((at, n) => expect(Math.abs(at - (4800 + n * 24000))).toBeLessThanOrEqual(n < 2 ? 40 : 2))
    expect(heard.tap('c.run')[48000]).toBe(1)
  })
  it('is followed through jitter: beats are ten times steadier than its ticks', () => {
    const beats = rises(
      hear(patch, 20, { events: ticks(133, 20, 0.004), taps: ['c.beat'] }).tap('c.beat'),
    ).slice(8)
    const gaps = beats.slice(1).map((at, n) => at - beats[n]!),
      mean = gaps.reduce((a, b) => a + b, 0) / gaps.length
    expect(mean / 48000).toBeCloseTo(60 / 133, 3)
    // The ticks are up to 192 frames late.
    expect(Math.max(...gaps.map((gap) => Math.abs(gap - mean)))).toBeLessThan(60)
  })
  it('counts every pulse once, and stops when the ticks stop', () => {
    const heard = hear(patch, 10, { events: ticks(97, 5, 0.003), taps: ['c.div1', 'c.run'] })
    expect(Math.abs(rises(heard.tap('c.div1')).length - Math.round((4.8 / 60) * 97 * 4))).toBeLessThan(3)
    expect(heard.tap('c.run')[9 * 48000]).toBe(0)
  })
})
