import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { analyze } from '../analysis/analyze.ts'
import { heard, noise, PIECE, RATE, reading, settings, signal, sine } from '../testing/probe.ts'
import { heightAt, type Plot } from './plot.ts'
import { plotOfSound, Slot } from './slot.ts'
import { Tape } from './tape.ts'

describe('a tape', () => {
  it('has the last frames, however they come', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 700 }), { minLength: 1, maxLength: 30 }),
        fc.integer({ min: 1, max: 900 }),
        (sizes, wanted) => {
          const x = noise(sizes.reduce((sum, size) => sum + size, 0)),
            tape = new Tape(1000, 0.6)
          let at = 0
          for (const size of sizes) {
            tape.take([x.subarray(at, at + size), x.subarray(at, at + size)], at)
            at += size
          }
          const length = Math.min(wanted, at, 600)
          const [left, right] = tape.last(wanted)
          expect(left).toEqual(x.slice(at - length))
          expect(right).toEqual(left)
        },
      ),
    )
  })

  it('begins anew after a gap, leaves out what comes twice, and takes another number of sides for another signal', () => {
    const tape = new Tape(RATE)
    tape.take([noise(512)], 0)
    tape.take([noise(512)], 0)
    expect(tape.frames).toBe(512)
    tape.take([noise(512)], 512)
    expect(tape.frames).toBe(1024)
    expect(tape.take([noise(512)], 2048)).toBe(true)
    expect(tape.frames).toBe(512)
    expect(tape.take([noise(512), noise(512)], 2560)).toBe(true)
    expect([tape.frames, tape.sides]).toEqual([512, 2])
  })
})

describe('what a slot shows is what the core measures', () => {
  it.each([55, 441.3, 2793.8])('tuner, %d Hz', (hz) => {
    const x = sine(hz, 1)
    const plot = heard([x]).look(settings('tuner'))
    const { pitchHz } = analyze({ rate: RATE, channels: [x.slice(-16384)] })
    expect(reading(plot, 'pitch')).toBe(pitchHz)
    expect(1200 * Math.log2(reading(plot, 'pitch')! / hz)).toBeCloseTo(0, 1)
  })

  it('loudness, peaks between samples and levels, of two sides that differ, looked at all the time', () => {
    const channels = [sine(997, 6, 0.3), noise(6 * RATE).map((x) => 0.2 * x)]
    // The piece that is not whole says nothing: looked at once a tenth of a second.
    let count = 0
    const slot = heard(channels, (each) => {
      count += 1
      if (count % 9 === 0) each.look(settings('level'))
    })
    const plot = slot.look(settings('level')),
      whole = analyze({ rate: RATE, channels })
    expect(reading(plot, 'integrated')).toBeCloseTo(whole.lufs!, 2)
    expect(reading(plot, 'short-term')).toBeCloseTo(whole.shortTermLufs!, 1)
    expect(reading(plot, 'peak')).toBeCloseTo(whole.peakDb!, 6)
    expect(Math.abs(reading(plot, 'true peak')! - whole.truePeakDb!)).toBeLessThan(0.05)
    // A whole sound is measured as a whole.
    const file = plotOfSound({ rate: RATE, channels }, settings('level'))
    expect(reading(file, 'integrated')).toBe(whole.lufs)
    expect(reading(file, 'momentary')).toBe(whole.momentaryLufs)
    expect(reading(file, 'true peak')).toBe(whole.truePeakDb)
    expect(reading(file, 'range')).toBe(whole.loudnessRange)
  })

  it('decay by octave and echo density, from the last strike on', () => {
    const tail = noise(3 * RATE, 7).map((x, i) => 0.5 * x * 10 ** ((-3 * i) / (0.8 * RATE)))
    const before = noise(RATE, 3).map((x, i) => 0.3 * x * 10 ** ((-3 * i) / (0.1 * RATE)))
    const x = new Float32Array(before.length + tail.length)
    x.set(before)
    x.set(tail, before.length)
    const slot = heard([x])
    const decay = slot.look(settings('decay')),
      density = slot.look(settings('density')),
      whole = analyze({ rate: RATE, channels: [tail] })
    expect(reading(decay, 'whole')).toBeCloseTo(whole.decaySeconds!, 2)
    expect(decay.curves[0]!.x).toHaveLength(whole.decayOctaves.length)
    for (const { hz, seconds } of whole.decayOctaves)
      expect(Math.abs(reading(decay, `${hz} Hz`)! / seconds - 1)).toBeLessThan(0.02)
    // Of a sound that is over: exactly the same.
    const file = plotOfSound({ rate: RATE, channels: [tail] }, settings('density'))
    expect([...file.curves[0]!.y]).toEqual([...Float32Array.from(whole.echoDensity)])
    expect(reading(density, 'dense from')).not.toBeNull()
  })

  it('peaks of a spectrum, by note and hertz', () => {
    const x = signal(
      2,
      (t) => 0.5 * Math.sin(2 * Math.PI * 440 * t) + 0.1 * Math.sin(2 * Math.PI * 1318.5 * t),
    )
    const { marks } = heard([x]).look(settings('spectrum', { size: 65536 }))
    const { peaks } = analyze({ rate: RATE, channels: [x.slice(-65536)] })
    expect(marks.map((mark) => [mark.x, mark.y])).toEqual(peaks.map(({ hz, db }) => [hz, db]))
    expect(marks.map(({ words }) => words)).toEqual(['A4 440.0', 'E6 1319'])
  })
})

describe('a scope', () => {
  it('stands still: whole periods from where the tone rises', () => {
    const hz = 441.3,
      wave = sine(hz, 3)
    const slot = new Slot(RATE)
    const plots: Plot[] = []
    for (let at = 0; at < 60000; at += PIECE) {
      slot.take([wave.subarray(at, at + PIECE)], at)
      if (at > 20000) plots.push(slot.look(settings('scope', { lock: 'pitch', windowSeconds: 0.01 })))
    }
    for (const plot of plots) {
      const [curve] = plot.curves
      expect(plot.across.to * hz).toBeCloseTo(4, 2)
      for (const share of [0.05, 0.3, 0.6, 0.9]) {
        const t = share * plot.across.to
        expect(heightAt(curve!, t)).toBeCloseTo(0.5 * Math.sin(2 * Math.PI * hz * t), 1)
      }
    }
  })

  it('begins at a rise, and shows a slow signal from its lowest to its highest', () => {
    const gate = signal(1, (t) => (t % 0.25 < 0.1 ? 1 : 0))
    const plot = heard([gate]).look(settings('scope', { windowSeconds: 0.1 }))
    expect(plot.up).toMatchObject({ from: 0, to: 1 })
    expect(plot.curves[0]!.y[0]).toBe(1)
    const slow = heard([signal(5, (t) => Math.sin(2 * Math.PI * 30 * t))]).look(
      settings('scope', { lock: 'free', windowSeconds: 2 }),
    )
    const { y } = slow.curves[0]!
    expect(y.length).toBeLessThanOrEqual(4096)
    expect([Math.min(...y), Math.max(...y)].map((value) => Math.round(100 * value))).toEqual([-100, 100])
  })

  it.each(['scope', 'spectrum', 'tuner', 'level', 'stereo', 'spectrogram', 'decay', 'density'] as const)(
    'of silence, of nothing and of what is not a number: %s shows no wrong number',
    (kind) => {
      for (const channels of [
        [],
        [new Float32Array(0)],
        [new Float32Array(9000)],
        [new Float32Array(9000).fill(1)],
      ]) {
        const slot = new Slot(RATE)
        slot.take(channels)
        const { readings, curves, up, across } = slot.look(settings(kind))
        for (const { value } of readings) expect(value === null || Number.isFinite(value)).toBe(true)
        for (const { x, y } of curves) expect([...x, ...y].every(Number.isFinite)).toBe(true)
        expect([up.from < up.to, across.from < across.to]).toEqual([true, true])
      }
    },
  )
})

describe('stereo', () => {
  it('tells what is common, what differs, and which side is louder', () => {
    const left = sine(500, 1),
      right = left.map((x) => 0.5 * x)
    const plot = heard([left, right]).look(settings('stereo'))
    expect(reading(plot, 'correlation')).toBeCloseTo(1, 6)
    expect(reading(plot, 'balance')).toBeCloseTo(-6.02, 1)
    const against = heard([left, left.map((x) => -x)]).look(settings('stereo'))
    expect(reading(against, 'correlation')).toBeCloseTo(-1, 6)
    const apart = heard([noise(RATE, 1), noise(RATE, 99)]).look(settings('stereo'))
    expect(Math.abs(reading(apart, 'correlation')!)).toBeLessThan(0.05)
    // What is mono stands upright.
    const mono = heard([left, left]).look(settings('stereo'))
    expect(Math.max(...mono.curves[0]!.x.map(Math.abs))).toBeLessThan(1e-6)
  })
})

describe('a spectrogram', () => {
  it('is the same whether it is looked at often or once, and lets a gap go', () => {
    const x = signal(4, (t) => 0.5 * Math.sin(2 * Math.PI * (200 + 1500 * t) * t))
    const often = heard([x], (slot) => slot.look(settings('spectrogram'))).look(settings('spectrogram')),
      once = heard([x]).look(settings('spectrogram'))
    const tail = (plot: Plot): Uint8Array => plot.picture!.levels.slice(-100 * plot.picture!.rows)
    expect(tail(often)).toEqual(tail(once))
    // The tone rises: the loudest row of later columns is a higher one.
    const { levels, rows, columns } = once.picture!
    const loudest = (column: number): number => {
      const one = levels.subarray(column * rows, (column + 1) * rows)
      return one.indexOf(Math.max(...one))
    }
    expect(loudest(columns - 1)).toBeGreaterThan(loudest(columns - 100))
  })
})

it.each(['scope', 'spectrum', 'stereo', 'decay', 'density'] as const)(
  'what is held of a slot looks as the slot did: %s',
  (kind) => {
    // Silence, then a note that dies away: the whole of it is another sound than its last stretch.
    const note = sine(330, 2).map((x, i) => x * 10 ** ((-3 * i) / RATE))
    const slot = heard([Float32Array.from([...new Float32Array(RATE), ...note])])
    const shown = slot.look(settings(kind)),
      held = plotOfSound({ rate: RATE, channels: slot.tape.last(4 * RATE) }, settings(kind), false)
    expect(held.curves).toEqual(shown.curves)
    expect(held.marks).toEqual(shown.marks)
    if (kind === 'spectrum')
      expect(
        plotOfSound({ rate: RATE, channels: slot.tape.last(4 * RATE) }, settings(kind)).curves,
      ).not.toEqual(shown.curves)
  },
)
