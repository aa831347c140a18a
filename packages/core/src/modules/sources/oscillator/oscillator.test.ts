import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { amplitudes, centsBetween, db, frequencyOf, largest, worstAlias } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('oscillator', {
  inputs: 'pitch fm hz phase sync reset',
  outputs: 'sine triangle saw pulse sub',
  params: 'octave semitones fine tracking frequency width syncMode startPhase drift level',
})

const SIZE = 65536

const single = (
  params: Record<string, number | string | boolean>,
  port: string,
  seconds = 2,
  rate = 48000,
): Float32Array =>
  hear(
    patchOf(
      [
        ['o', 'oscillator', params],
        ['out', 'output'],
      ],
      [`o.${port} > out.in`],
    ),
    seconds,
    { taps: [`o.${port}`], rate },
  ).tap(`o.${port}`)

describe('oscillator', () => {
  describe.each([44100, 48000, 96000])('at %i Hz', (rate) => {
    it.each([55.3, 1000.3, 2500.9, 4999.7])('has no alias above −90 dB at %f Hz', (hz) => {
      const heard = (port: string, params: object): number =>
        worstAlias(single({ frequency: hz, ...params }, port, 2, rate), port === 'sub' ? hz / 2 : hz, {
          rate,
        })
      for (const port of ['saw', 'triangle']) expect(heard(port, {}), port).toBeLessThan(-90)
      for (const width of [0.01, 0.05, 0.37])
        expect(heard('pulse', { width }), `pulse ${width}`).toBeLessThan(-90)
      expect(heard('sub', { width: 0.3 }), 'sub').toBeLessThan(-90)
    })
  })

  const widthMoved = (hz: number, by: number, depth: number): Float32Array =>
    hear(
      patchOf(
        [
          ['o', 'oscillator', { frequency: hz }],
          ['l', 'oscillator', { frequency: by }],
        ],
        [`l.sine > o.width * ${depth}`],
      ),
      2,
      { taps: ['o.pulse'] },
    ).tap('o.pulse')

  it('stays band-limited while its width moves', () => {
    // Slowly: each harmonic is spread over some hertz.
    for (const hz of [1000.3, 4000.7])
      expect(worstAlias(widthMoved(hz, 0.3, 0.3), hz, { spread: 60 }), `${hz}`).toBeLessThan(-90)
    // At audio rate, by multiples of its own frequency.
    for (const [hz, times] of [
      [220.5, 3],
      [440.7, 1],
      [1000.3, 1],
    ] as const)
      for (const depth of [0.1, 0.3])
        expect(
          worstAlias(widthMoved(hz, hz * times, depth), hz, { loudest: true }),
          `${hz} ${times}`,
        ).toBeLessThan(-60)
  })

  it('follows the amplitudes of its waves', () => {
    const hz = 187.5 // 256 frames: bins fall on harmonics
    const ideal: Record<string, (n: number) => number> = {
      sine: (n) => (n === 1 ? 1 : 0),
      saw: (n) => 2 / (Math.PI * n),
      triangle: (n) => (n % 2 ? 8 / (Math.PI * n) ** 2 : 0),
      pulse: (n) => (4 / (Math.PI * n)) * Math.abs(Math.sin(Math.PI * n * 0.3)),
    }
    for (const [port, amplitude] of Object.entries(ideal)) {
      const spectrum = amplitudes(single({ frequency: hz, width: 0.3 }, port), SIZE, 1024)
      for (let n = 1; n <= 60; n += 1) {
        const expected = amplitude(n)
        if (expected > 1e-4) expect(db(spectrum[n * 256]! / expected), `${port} ${n}`).toBeCloseTo(0, 1)
        else expect(spectrum[n * 256]!, `${port} ${n}`).toBeLessThan(1e-6)
      }
    }
  })

  it('is in tune over the whole range of notes', () => {
    for (const note of [0, 21, 45, 60, 69, 88, 108, 127]) {
      const patch = patchOf(
        [
          ['n', 'notes'],
          ['o', 'oscillator'],
          ['out', 'output'],
        ],
        ['n.pitch > o.pitch', 'o.sine > out.in'],
      )
      const x = hear(patch, 4, { play: `${note}@0+4`, taps: ['o.sine'] }).tap('o.sine')
      const expected = 440 * 2 ** ((note - 69) / 12)
      expect(Math.abs(centsBetween(frequencyOf(x, expected), expected)), `note ${note}`).toBeLessThan(0.05)
    }
  })

  it('keeps the period of very slow waves', () => {
    // 0.001 Hz: 30 s of the rising sine are 0.03 cycles; the phase is read back from the level.
    const x = single({ frequency: 0.001 }, 'sine', 30)
    const last = x.length - 1
    expect(Math.asin(x[last]!) / (2 * Math.PI) / ((0.001 * last) / 48000)).toBeCloseTo(1, 4)
  })

  it('starts at its start phase and follows its formulas away from corners', () => {
    const hz = 100
    for (const [port, wave] of Object.entries({
      saw: (p: number) => 2 * p - 1,
      triangle: (p: number) => (p < 0.5 ? 4 * p - 1 : 3 - 4 * p),
      pulse: (p: number) => (p < 0.5 ? 1 : -1),
      sine: (p: number) => Math.sin(2 * Math.PI * p),
    })) {
      const x = single({ frequency: hz, startPhase: 0.25 }, port, 0.1)
      for (let i = 0; i < 1000; i += 1) {
        const p = (0.25 + (i * hz) / 48000) % 1
        const near = Math.min(p, 1 - p, Math.abs(p - 0.5)) < (13 * hz) / 48000
        if (!near) expect(x[i]!, `${port} ${i}`).toBeCloseTo(wave(p), 4)
      }
    }
  })

  it('adds detuning in its three units and modulation of the frequency in octaves', () => {
    const patch = patchOf(
      [['o', 'oscillator', { frequency: 100, octave: 1, semitones: 7, fine: -50, tracking: false }]],
      [],
    )
    const x = hear(patch, 2, { taps: ['o.sine'] }).tap('o.sine')
    const expected = 100 * 2 ** (1 + 7 / 12 - 50 / 1200)
    expect(centsBetween(frequencyOf(x, expected), expected)).toBeCloseTo(0, 2)
  })

  it('does linear FM through zero and adds hertz', () => {
    // fm = −2 turns the frequency round: f (1 − 2) = −f, a sine runs backwards.
    const patch = patchOf(
      [
        ['k', 'oscillator', { frequency: 0.001, startPhase: 0.25 }],
        ['o', 'oscillator', { frequency: 250 }],
      ],
      ['k.sine > o.fm * -2'],
    )
    const x = hear(patch, 1, { taps: ['o.sine'] }).tap('o.sine')
    for (let i = 0; i < 400; i += 1) expect(x[i]!).toBeCloseTo(-Math.sin((2 * Math.PI * 250 * i) / 48000), 3)
    const plus = hear(
      patchOf(
        [
          ['k', 'oscillator', { frequency: 0.001, startPhase: 0.25 }],
          ['o', 'oscillator', { frequency: 250 }],
        ],
        ['k.sine > o.hz * 10'],
      ),
      2,
      { taps: ['o.sine'] },
    ).tap('o.sine')
    expect(frequencyOf(plus, 260)).toBeCloseTo(260, 2)
  })

  describe.each(['hard', 'soft'])('%s sync', (syncMode) => {
    it.each(['saw', 'sine', 'triangle', 'pulse'])('by a %s keeps aliases down', (wave) => {
      for (const [master, most] of [
        [440.7, -80],
        [1000.3, -80],
        [2000.9, -55],
      ] as const) {
        const patch = patchOf(
          [
            ['m', 'oscillator', { frequency: master }],
            ['o', 'oscillator', { frequency: master * 2.2, syncMode }],
          ],
          [`m.${wave} > o.sync`],
        )
        const taps = ['saw', 'pulse', 'triangle', 'sine', 'sub'].map((port) => `o.${port}`)
        const heard = hear(patch, 2, { taps })
        // Turned back and forth, eleven cycles of the slave fit into ten of five masters.
        const period = syncMode === 'soft' ? master / 10 : master
        for (const tap of taps)
          expect(worstAlias(heard.tap(tap), period, { loudest: true }), `${tap} ${master}`).toBeLessThan(most)
      }
    })
  })

  it('is as clean as ever where sync resets it now and then', () => {
    const patch = patchOf(
      [
        ['m', 'oscillator', { frequency: 0.1, startPhase: 0.49 }],
        ['o', 'oscillator', { frequency: 1000.3, width: 0.3 }],
      ],
      ['m.triangle > o.sync'],
    )
    const taps = ['saw', 'pulse', 'triangle', 'sub'].map((port) => `o.${port}`)
    const heard = hear(patch, 5, { taps })
    for (const tap of taps)
      expect(
        worstAlias(heard.tap(tap), tap === 'o.sub' ? 500.15 : 1000.3, { start: 150_000 }),
        tap,
      ).toBeLessThan(-90)
  })

  it('plays every hit the same after a reset, synced or drifting as it may be', () => {
    const patch = patchOf(
      [
        ['n', 'notes'],
        ['m', 'oscillator', { frequency: 333, tracking: false }],
        ['o', 'oscillator', { drift: 1, startPhase: 0.3, frequency: 777, tracking: false }],
      ],
      ['n.trigger > o.reset', 'm.sine > o.sync', 'n.trigger > m.reset', 'm.sine > o.phase * 0.2'],
    )
    const taps = ['saw', 'pulse', 'triangle', 'sine', 'sub'].map((port) => `o.${port}`)
    const heard = hear(patch, 1, { play: '60@0.1+0.1 60@0.33333+0.1 60@0.71+0.1', taps })
    for (const tap of taps) {
      const hits = [0.1, 0.33333, 0.71].map((t) =>
        heard
          .tap(tap)
          .slice(Math.round(t * 48000))
          .slice(0, 8000),
      )
      expect(hits[1]!, tap).toEqual(hits[0]!)
      expect(hits[2]!, tap).toEqual(hits[0]!)
    }
  })

  it('resets exactly at a gate', () => {
    const patch = patchOf(
      [
        ['n', 'notes'],
        ['o', 'oscillator', { frequency: 100, tracking: false }],
      ],
      ['n.gate > o.sync'],
    )
    const x = hear(patch, 0.2, { play: '60@0.0501+0.1', taps: ['o.sine'] }).tap('o.sine')
    const at = Math.round(0.0501 * 48000)
    // Past the band-limited corner the phase counts from the gate's sample.
    for (let i = 40; i < 200; i += 1)
      expect(x[at + i]!).toBeCloseTo(Math.sin((2 * Math.PI * 100 * i) / 48000), 3)
  })

  it('has a sub an octave down and a level', () => {
    const x = single({ frequency: 400, level: 0.5 }, 'sub')
    expect(frequencyOf(x, 200)).toBeCloseTo(200, 3)
    expect(largest(x)).toBeGreaterThan(0.5)
    expect(largest(x)).toBeLessThan(0.62)
  })

  it('drifts by a few cents, differently in every voice', () => {
    const patch = patchOf(
      [
        ['n', 'notes', { voices: 4, mode: 'poly' }],
        ['o', 'oscillator', { drift: 1 }],
      ],
      ['n.pitch > o.pitch'],
    )
    const lanes = hear(patch, 3, { play: '69@0+3 69@0+3 69@0+3 69@0+3', taps: ['o.sine'] }).lanes('o.sine')
    const cents = lanes.map((lane) => centsBetween(frequencyOf(lane, 440, 48000, 0, 24000), 440))
    for (const value of cents) expect(Math.abs(value)).toBeLessThan(20)
    expect(new Set(cents.map((value) => value.toFixed(3))).size).toBe(4)
  })
})
