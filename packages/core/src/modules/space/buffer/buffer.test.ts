/** Buffer: loops to the sample, layers and how they are taken back, speeds and directions, seams. */
import { describe, expect, it } from 'vitest'
import { RATE, sine } from '../../../testing/effects.ts'
import { edges, FADE, looper, noise, press } from '../../../testing/looper.ts'
import { db, hzBetween, largest, rms } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('buffer', {
  inputs: 'in record clear play undo reset',
  outputs: 'out head end',
  params: 'name length overdub quantize loopStart loopEnd mode position speed interpolation',
})
describe('buffer', () => {
  it('goes round exactly as long as record was high, both sides, its seam faded', () => {
    const sides = [noise(2.4, 3), noise(2.4, 4)] as const,
      lanes = looper(sides, press('record', 0.1, 0.5))
    const [from, to] = edges(lanes('record.gate')[0]!) as [number, number]
    const length = to - from
    expect(length).toBe(RATE / 2)
    for (const side of [0, 1]) {
      const out = lanes('b.out')[side]!,
        x = sides[side]!
      expect(largest(out.subarray(0, to))).toBe(0)
      // From the first round on, behind the fade: sample for sample.
      for (let n = FADE; n < length; n += 1) expect(out[to + n]).toBe(x[from + n])
      expect(out.subarray(to + length + FADE, to + 2 * length)).toEqual(out.subarray(to + FADE, to + length))
      // In the seam what sounded on goes over into what sounded at first.
      for (const n of [0, 1, 50, 120, 239]) {
        const g = (n + 0.5) / FADE
        expect(out[to + length + n]).toBeCloseTo(g * x[from + n]! + (1 - g) * x[to + n]!, 5)
      }
    }
    // One trigger a round.
    expect(edges(lanes('b.end')[0]!).filter((_, n) => n % 2 === 0)).toHaveLength(3)
  })

  it('is a steady tone where a steady tone was recorded: no click at the seam', () => {
    const tone = sine(441.3, 3),
      out = looper(tone, press('record', 0.2, 0.7213))('b.out')[0]!
    const steps = out.map((v, n) => (n ? v - out[n - 1]! : 0))
    expect(largest(steps.subarray(Math.round(0.95 * RATE)))).toBeLessThan(
      1.05 * largest(tone.map((v, n) => (n ? v - tone[n - 1]! : 0))),
    )
  })

  it('lays a layer over what is there, takes it back and brings it again', () => {
    const x = noise(6)
    for (const overdub of [1, 0.5, 0]) {
      const lanes = looper(
        x,
        [
          press('record', 0, 0.5),
          press('record', 1.1, 0.2),
          press('undo', 2.6, 0.1),
          press('undo', 4.1, 0.1),
        ].join(' '),
        { overdub },
      )
      const out = lanes('b.out')[0]!,
        [, to, second, third] = edges(lanes('record.gate')[0]!) as [number, number, number, number],
        length = RATE / 2
      const round = (n: number): Float32Array => out.subarray(to + n * length, to + (n + 1) * length)
      const base = round(1),
        layered = round(3),
        within = second - to - length
      for (let n = FADE; n < third - second - 1; n += 1) {
        const at = (within + n) % length
        if (at > FADE) expect(layered[at]).toBeCloseTo(overdub * base[at]! + x[second + n]!, 5)
      }
      // Elsewhere nothing has changed, behind the fade at the end of the layer.
      for (let at = within + third - second + 2 * FADE; at < length; at += 1)
        expect(layered[at]).toBe(base[at])
      expect(round(5)).toEqual(base)
      expect(round(8)).toEqual(layered)
    }
  })

  it('does not click where a layer begins and ends, is taken back, or is cleared', () => {
    const tone = sine(200, 5, 0.3)
    const out = looper(
      tone,
      [
        press('record', 0, 0.503),
        press('record', 0.9, 0.333),
        press('undo', 2, 0.1),
        press('undo', 2.7, 0.1),
        press('reset', 3.1, 0.1),
        press('clear', 4, 0.1),
      ].join(' '),
      {},
      { gates: ['record', 'undo', 'reset', 'clear'] },
    )('b.out')[0]!
    const own = 2 * 0.3 * 2 * Math.sin((Math.PI * 200) / RATE)
    const steps = out.map((v, n) => (n ? v - out[n - 1]! : 0))
    // It begins to play with what sounds on: the fade in is of the whole level.
    expect(largest(steps)).toBeLessThan(own + 0.6 / FADE)
    expect(largest(out.subarray(4.1 * RATE))).toBe(0)
  })

  it('brings back what was cleared, and the first recording', () => {
    const out = looper(
      noise(4),
      [
        press('record', 0, 0.25),
        press('clear', 0.6, 0.1),
        press('undo', 1.1, 0.1),
        press('undo', 2, 0.1),
        press('undo', 3, 0.1),
      ].join(' '),
      {},
      { gates: ['record', 'clear', 'undo'] },
    )('b.out')[0]!
    const level = (from: number): number => rms(out.subarray(from * RATE, (from + 0.4) * RATE), 0)
    expect([level(0.65), level(2.05)]).toEqual([0, 0])
    expect(level(1.2)).toBeGreaterThan(0.2)
    expect(level(3.2)).toBeGreaterThan(0.2)
  })

  it.each([
    [0.5, 220],
    [2, 880],
    [-1, 440],
    [-0.5, 220],
    [1.5, 660],
  ])('at speed %f a tone of 440 Hz has %f', (speed, hz) => {
    const out = looper(sine(440, 4), press('record', 0, 1), { speed })('b.out')[0]!
    expect(hzBetween(out, 1.2, 1.6)).toBeCloseTo(hz, 0)
  })

  it('records a layer at any speed as it sounds: played back at that speed it is what came in', () => {
    for (const speed of [0.5, 2, -1, -2]) {
      const x = Float32Array.from(sine(300, 4, 0.4), (v, n) => (n > RATE ? v : 0))
      const lanes = looper(x, `${press('record', 0, 0.9)} ${press('record', 1.2, 0.3)}`, { speed })
      const out = lanes('b.out')[0]!
      // The layer comes round once the head has gone a whole way.
      const round = 0.9 / Math.abs(speed)
      let at = 1.2
      while (at < 1.55) at += round
      expect(hzBetween(out, at + 0.03, at + 0.27)).toBeCloseTo(300, -0.5)
      expect(
        Math.abs(db(rms(out.subarray((at + 0.05) * RATE, (at + 0.25) * RATE), 0) / (0.4 / Math.SQRT2))),
      ).toBeLessThan(1)
    }
  })

  it('waits for the beat or the bar, and is whole beats long', () => {
    for (const [quantize, grid] of [
      ['beat', 0.5],
      ['bar', 2],
    ] as const) {
      const lanes = looper(noise(7), press('record', 0.3, 2.1), { quantize }, { tempo: 120 })
      const out = lanes('b.out')[0]!,
        first = out.findIndex((v) => v !== 0)
      const from = Math.ceil(0.3 / grid) * grid,
        to = Math.ceil(2.4 / grid) * grid
      expect(first / RATE).toBeCloseTo(to, 3)
      const length = Math.round((to - from) * RATE)
      expect(out.subarray(first + length + FADE, first + length + 4000)).toEqual(
        out.subarray(first + FADE, first + 4000),
      )
    }
  })

  it('plays once, waits for play, starts at its beginning, and stops', () => {
    const once = looper(noise(3), press('record', 0, 0.5), { mode: 'once' })
    expect(largest(once('b.out')[0]!.subarray(1.01 * RATE))).toBe(0)
    expect(edges(once('b.end')[0]!)).toHaveLength(2)
    const x = noise(4),
      lanes = looper(
        x,
        [press('record', 0, 0.5), press('play', 1.2, 0.3), press('play', 2, 0.3)].join(' '),
        {},
        { gates: ['record', 'play'] },
      )
    const out = lanes('b.out')[0]!
    expect(largest(out.subarray(0, 1.19 * RATE))).toBe(0)
    for (const at of [1.2, 2]) {
      const n = Math.round(at * RATE)
      expect(out.subarray(n + FADE, n + 13920)).toEqual(x.subarray(FADE, 13920))
      expect(largest(out.subarray(n + 0.31 * RATE, n + 0.7 * RATE))).toBe(0)
    }
  })

  it('reads where position says, and a part of the loop alone', () => {
    const x = Float32Array.from({ length: 4 * RATE }, (_, n) => Math.min(1, n / RATE))
    const out = looper(x, press('record', 0, 1), { mode: 'position', position: 0.25 })('b.out')[0]!
    expect(out[2 * RATE]).toBeCloseTo(0.25, 4)
    const part = looper(x, press('record', 0, 1), { loopStart: 0.6, loopEnd: 0.4 })('b.out')[0]!
    const late = part.subarray(2 * RATE)
    expect([...late].every((v) => v > 0.38 && v < 0.62)).toBe(true)
  })

  it('ends when its room is full, and begins anew only when record was let go', () => {
    const x = noise(4)
    const lanes = looper(x, press('record', 0.1, 2.9), { length: 0.5 })
    const out = lanes('b.out')[0]!,
      room = Math.ceil((0.5 * RATE) / 1024) * 1024,
      from = Math.round(0.1 * RATE)
    expect(out.findIndex((v) => v !== 0)).toBeGreaterThanOrEqual(from + room)
    for (let n = FADE; n < room; n += 97) expect(out[from + room + n]).toBe(x[from + n])
    expect(out.subarray(from + 3 * room + FADE, from + 4 * room)).toEqual(
      out.subarray(from + 2 * room + FADE, from + 3 * room),
    )
  })
})
