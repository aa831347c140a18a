import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { click, RATE, sine, through } from '../../../testing/effects.ts'
import { db, largestStep, magnitudeAt } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('phaser', {
  inputs: 'in reset',
  outputs: 'out',
  params: 'stages centre depth rate sync spread feedback mix per',
})

/** Closed form: a chain of all-passes with feedback around it that costs no sample, beside the direct sound. */
const expected = (hz: number, centre: number, stages: number, feedback: number, mix: number): number => {
  const ratio = Math.tan((Math.PI * hz) / RATE) / Math.tan((Math.PI * centre) / RATE)
  // (t − s) / (t + s) turns by π − 2 atan of it: −(1 − j r) / (1 + j r).
  const turn = stages * (Math.PI - 2 * Math.atan(ratio)) + stages * Math.PI
  const [re, im] = [Math.cos(turn), Math.sin(turn)]
  const [downRe, downIm] = [1 - feedback * re, -feedback * im]
  const size = downRe ** 2 + downIm ** 2
  const wetRe = (re * downRe + im * downIm) / size,
    wetIm = (im * downRe - re * downIm) / size
  return Math.hypot(1 - mix + mix * wetRe, mix * wetIm)
}

describe('phaser', () => {
  it.each([
    [4, 500, 0, 0.5],
    [6, 800, 0.6, 0.5],
    [7, 1500, -0.7, 0.5],
    [16, 300, 0.9, 1],
    [2, 8000, 0.3, 0.4],
  ])('%d stages at %d Hz, feedback %d, mix %d: the closed form', (stages, centre, feedback, mix) => {
    const [left] = through('phaser', { stages, centre, feedback, mix, depth: 0 }, click(1))()
    for (const hz of [60, 200, 450, 800, 1300, 2900, 7000, 15000]) {
      const wanted = expected(hz, centre, stages, feedback, mix)
      if (wanted > 0.01) expect(Math.abs(db(magnitudeAt(left!, hz) / wanted)), `${hz} Hz`).toBeLessThan(0.05)
    }
  })

  it('changes its stages without a click', () => {
    const patch = patchOf(
      [
        ['i', 'input'],
        ['s', 'lfo', { shape: 'square', rate: 6 }],
        ['p', 'phaser', { stages: 8, mix: 1, depth: 0.1, feedback: 0.3 }],
      ],
      ['i.out > p.in', 's.out > p.stages * 5'],
    )
    const sound = sine(300, 1)
    const out = hear(patch, 1, { input: { rate: RATE, channels: [sound, sound] }, taps: ['p.out'] }).tap(
      'p.out',
    )
    expect(largestStep(out, 3000)).toBeLessThan(1.7 * 0.5 * ((2 * Math.PI * 300) / RATE))
  })
})
