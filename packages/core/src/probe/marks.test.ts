import { describe, expect, it } from 'vitest'
import { analyze } from '../analysis/analyze.ts'
import { heard, noise, RATE, reading, settings, signal, sine } from '../testing/probe.ts'
import { compared } from './compare.ts'
import { csvOf } from './csv.ts'
import { modulationOf, sidebandsOf } from './sidebands.ts'
import { plotOfSound } from './slot.ts'

/** Bessel's function of the first kind, by its series. */
const bessel = (n: number, x: number): number => {
  let term = (x / 2) ** n
  for (let k = 2; k <= n; k += 1) term /= k
  let sum = term
  for (let k = 1; k < 40; k += 1) {
    term *= -((x / 2) ** 2) / (k * (k + n))
    sum += term
  }
  return sum
}

describe('sidebands', () => {
  const c = 700,
    m = 210,
    index = 3
  const x = signal(2, (t) => 0.5 * Math.cos(2 * Math.PI * c * t + index * Math.sin(2 * Math.PI * m * t)))
  const { marks, readings } = heard([x]).look(settings('spectrum', { carrier: c, modulator: m, size: 65536 }))

  it('stand where theory puts them, as loud as it says: sums, differences, folded', () => {
    for (const order of [1, 2, 3]) {
      const [sum, difference] = [c + order * m, c - order * m].map((hz) =>
        marks.find((mark) => Math.abs(mark.x - hz) < 1e-6),
      )
      const level = 20 * Math.log10(0.5 * Math.abs(bessel(order, index)))
      expect([sum!.kind, difference!.kind]).toEqual(['sum', 'difference'])
      expect(Math.abs(sum!.y - level)).toBeLessThan(0.9)
      expect(Math.abs(difference!.y - level)).toBeLessThan(0.9)
    }
    const folded = marks.filter(({ kind }) => kind === 'folded')
    expect(folded.map(({ words }) => words)).toContain('|c − 4 m| 140.0')
    expect(marks[0]).toMatchObject({ kind: 'carrier', x: c })
    expect(readings.map(({ name, value }) => [name, value])).toEqual([
      ['carrier', c],
      ['modulator', m],
    ])
  })

  it('are the peaks that are measured', () => {
    const { peaks } = analyze({ rate: RATE, channels: [x.slice(-65536)] })
    for (const { hz, db } of peaks.filter((peak) => peak.db > peaks[0]!.db - 40)) {
      const mark = marks.find((each) => Math.abs(each.x - hz) < 1)
      expect(mark, `${hz} Hz`).toBeDefined()
      expect(Math.abs(mark!.y - db)).toBeLessThan(1)
    }
  })

  it('are found without being told, for a carrier that is the loudest', () => {
    const soft = signal(2, (t) => 0.5 * Math.cos(2 * Math.PI * c * t + 0.9 * Math.sin(2 * Math.PI * m * t)))
    const plot = heard([soft]).look(settings('spectrum', { carrier: 'auto', size: 65536 }))
    expect(reading(plot, 'carrier')).toBeCloseTo(c, 0)
    expect(reading(plot, 'modulator')).toBeCloseTo(m, 0)
  })

  it('come back from half the rate, and two in one place are one', () => {
    const far = sidebandsOf(20000, 3000, RATE, 3)
    expect(far.find(({ order }) => order === 2)).toMatchObject({ hz: 22000, kind: 'folded' })
    expect(sidebandsOf(300, 150, RATE, 6).filter(({ hz }) => Math.abs(hz - 150) < 0.01)).toHaveLength(1)
    expect(modulationOf([], RATE)).toBeUndefined()
  })
})

describe('comparing', () => {
  it('of a sound and the same 6 dB louder differs by that everywhere it is heard', () => {
    const x = noise(2 * RATE).map((y) => 0.2 * y)
    const [a, b] = [x, x.map((y) => 2 * y)].map((channel) =>
      plotOfSound({ rate: RATE, channels: [channel] }, settings('spectrum')),
    )
    const { curve, mean, most } = compared(a!, b!)
    expect(mean).toBeCloseTo(6.02, 1)
    expect(most).toBeCloseTo(6.02, 1)
    expect(curve!.x[0]).toBeCloseTo(20, 3)
    const levels = [x, x.map((y) => 2 * y)].map((channel) =>
      plotOfSound({ rate: RATE, channels: [channel] }, settings('level')),
    )
    const integrated = compared(levels[0]!, levels[1]!).readings.find(({ name }) => name === 'integrated')!
    expect(integrated.more).toBeCloseTo(6.02, 2)
  })

  it('of what is silent on both sides is nothing, and of pictures there is no line', () => {
    const nothing = plotOfSound({ rate: RATE, channels: [new Float32Array(9000)] }, settings('spectrum'))
    expect(compared(nothing, nothing)).toMatchObject({ most: null, mean: null })
    const dots = plotOfSound({ rate: RATE, channels: [noise(9000)] }, settings('stereo'))
    expect(compared(dots, dots).curve).toBeUndefined()
  })
})

describe('a plot as text', () => {
  it('has its readings, marks and every point in units', () => {
    const plot = plotOfSound(
      { rate: RATE, channels: [sine(1000, 1)] },
      settings('spectrum', { carrier: 1000, modulator: 100 }),
    )
    const tables = csvOf(plot)
      .trim()
      .split('\n\n')
      .map((table) => table.split('\n'))
    expect(tables.map(([head]) => head)).toEqual([
      'reading,value,unit',
      'mark,at (Hz),height (dB),words',
      'at (Hz),spectrum (dB)',
    ])
    const points = tables[2]!.slice(1).map((row) => row.split(',').map(Number))
    expect(points).toHaveLength(plot.curves[0]!.x.length)
    const loudest = points.reduce((best, point) => (point[1]! > best[1]! ? point : best))
    expect(Math.abs(loudest[0]! - 1000)).toBeLessThan(2)
    const columns = csvOf(plotOfSound({ rate: RATE, channels: [sine(1000, 1)] }, settings('spectrogram')))
    expect(columns.split('\n')).toHaveLength(302)
  })
})
