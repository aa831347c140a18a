import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { largestStep } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('envelope', {
  inputs: 'gate trigger velocity in',
  outputs: 'env inverse out end',
  params:
    'delay attack hold decay sustain release attackCurve decayCurve releaseCurve retrigger loop velocityAmount',
})

const RATE = 48000
const curve = (x: number, c: number): number =>
  Math.abs(c) < 1e-6 ? x : (1 - Math.exp(-6 * c * x)) / (1 - Math.exp(-6 * c))

const envelope = (
  params: Record<string, number | string | boolean>,
  play: string,
  seconds: number,
  notes: Record<string, number | string> = {},
) => {
  const patch = patchOf(
    [
      ['n', 'notes', notes],
      ['e', 'envelope', params],
    ],
    ['n.gate > e.gate', 'n.velocity > e.velocity', 'n.trigger > e.trigger'],
  )
  return hear(patch, seconds, { play, taps: ['e.env', 'e.end', 'e.inverse', 'n.gate'] })
}

describe('envelope', () => {
  it('follows its closed form, every segment to the sample', () => {
    const p = {
      delay: 0.01,
      attack: 0.1,
      hold: 0.02,
      decay: 0.2,
      sustain: 0.4,
      release: 0.15,
      attackCurve: 0.3,
      decayCurve: -0.4,
      releaseCurve: 0.6,
    }
    const x = envelope(p, '60@0.05+0.5', 0.8).tap('e.env')
    const start = 2400,
      off = 2400 + 24000
    for (let i = 0; i < x.length; i += 7) {
      const t = (i - start) / RATE
      let expected = 0
      if (i >= off)
        expected = t - 0.5 < p.release ? p.sustain * (1 - curve((t - 0.5) / p.release, p.releaseCurve)) : 0
      else if (t >= 0.33) expected = p.sustain
      else if (t >= 0.13) expected = 1 + (p.sustain - 1) * curve((t - 0.13) / p.decay, p.decayCurve)
      else if (t >= 0.11) expected = 1
      else if (t >= 0.01) expected = curve((t - 0.01) / p.attack, p.attackCurve)
      expect(x[i]!, `frame ${i}`).toBeCloseTo(expected, 4)
    }
  })

  it.each([0.001, 0.01, 0.3337, 5, 20])(
    'reaches the end of an attack of %f s within a sample or 0.1 %%',
    (attack) => {
      const x = envelope({ attack, attackCurve: 0, decay: 0, sustain: 1 }, '60@0+25', attack + 0.05).tap(
        'e.env',
      )
      const end = x.findIndex((value) => value >= 1)
      expect(Math.abs(end - attack * RATE)).toBeLessThanOrEqual(Math.max(1, 0.001 * attack * RATE))
    },
  )

  it('is there at once with no attack, and silent before the note', () => {
    const x = envelope({ attack: 0, decay: 0.1, sustain: 0.5, release: 0 }, '60@0.01+0.05', 0.1).tap('e.env')
    expect([...x.slice(0, 480)].every((value) => value === 0)).toBe(true)
    expect(x[480]).toBe(1)
    expect(x[480 + 2400]).toBe(0)
  })

  it('re-triggers from where it is, without a step', () => {
    const heard = envelope(
      { attack: 0.05, decay: 0.1, sustain: 0.8, release: 0.3 },
      '60@0+0.2 62@0.15+0.2 64@0.4+0.1',
      0.8,
    )
    expect(largestStep(heard.tap('e.env'))).toBeLessThan(0.002)
    expect(
      [...heard.tap('n.gate')].filter(
        (value, i, all) => i > 0 && value === 0 && all[i - 1] === 1 && all[i + 1] === 1,
      ),
    ).toHaveLength(1)
  })

  it('does not start again in legato', () => {
    const x = envelope(
      { attack: 0.01, decay: 0.05, sustain: 0.3, retrigger: 'legato' },
      '60@0+0.3 62@0.15+0.3',
      0.4,
    ).tap('e.env')
    for (let i = 6000; i < 14000; i += 1) expect(x[i]!).toBeCloseTo(0.3, 5)
  })

  it('scales with velocity, loops, mirrors and reports its end', () => {
    const heard = envelope(
      { attack: 0.01, decay: 0.01, sustain: 0, release: 0.01, loop: true, velocityAmount: 1 },
      '60@0+0.1:0.5',
      0.2,
    )
    const x = heard.tap('e.env')
    expect(Math.max(...x)).toBeCloseTo(0.5, 3)
    const peaks = [...x].filter(
      (value, i) => i > 0 && i < 4800 && value >= 0.4999 && x[i - 1]! < 0.4999,
    ).length
    expect(peaks).toBe(5)
    expect(heard.tap('e.inverse')[4000]).toBeCloseTo(1 - x[4000]!, 6)
    const end = heard.tap('e.end')
    const first = end.indexOf(1)
    expect(x[first - 1]! <= 0.01).toBe(true)
    // Four turns, and the release that begins with the fifth.
    expect([...end].filter((value) => value === 1)).toHaveLength(5 * 48)
  })

  it('modulates its times in octaves', () => {
    const patch = patchOf(
      [
        ['n', 'notes'],
        ['e', 'envelope', { attack: 0.1, attackCurve: 0, decay: 0, sustain: 1 }],
      ],
      ['n.gate > e.gate', 'n.velocity > e.attack * 1'],
    )
    const x = hear(patch, 0.4, { play: '60@0+1', taps: ['e.env'] }).tap('e.env')
    expect(Math.abs(x.findIndex((value) => value >= 1) - 9600)).toBeLessThanOrEqual(10)
  })

  it('says at every turn of its loop that it ended, and delays only once', () => {
    const heard = envelope(
      { delay: 0.02, attack: 0.01, hold: 0.01, decay: 0.02, sustain: 0.2, release: 0.01, loop: true },
      '60@0.1+0.3',
      0.6,
    )
    const end = heard.tap('e.end')
    const ends: number[] = []
    for (let i = 1; i < end.length; i += 1) if (end[i]! > 0.5 && end[i - 1]! <= 0.5) ends.push(i)
    // 0.1 s + delay, then every 0.04 s while the gate is open; the last is the release's.
    const turns = Array.from({ length: 7 }, (_, n) => Math.round((0.12 + 0.04 * (n + 1)) * RATE)).filter(
      (at) => at < 0.4 * RATE,
    )
    expect(ends.length).toBe(turns.length + 1)
    turns.forEach((at, n) => expect(Math.abs(ends[n]! - at)).toBeLessThan(3 + n))
    expect(Math.abs(ends.at(-1)! - 0.41 * RATE)).toBeLessThan(3)
  })
})
