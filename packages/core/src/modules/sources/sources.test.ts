import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../testing/bench.ts'
import { amplitudes, centsBetween, db, frequencyOf, rms } from '../../testing/measure.ts'

const hzOf = (note: number): number => 261.6256 * 2 ** ((note - 60) / 12)
const SIZE = 65536
/** Bessel function of the first kind, by its integral. */
const bessel = (n: number, x: number): number => {
  let sum = 0
  for (let k = 0; k < 4000; k += 1) {
    const t = (Math.PI * (k + 0.5)) / 4000
    sum += Math.cos(n * t - x * Math.sin(t))
  }
  return sum / 4000
}

describe('every pitched source is in tune', () => {
  it.each<[string, string, Record<string, number | string | boolean>]>([
    ['operator', 'out', { envelope: false }],
    ['wavetable', 'a', {}],
    ['partials', 'out', { count: 8 }],
    ['unison', 'out', { copies: 1 }],
    ['modes', 'out', { model: 'bar', count: 1, decay: 30 }],
  ])('%s', (type, port, params) => {
    for (const note of [0, 24, 60, 96, 120]) {
      const out = hear(
        patchOf(
          [
            ['n', 'notes'],
            ['m', type, params],
          ],
          ['n.pitch > m.pitch', ...(type === 'modes' ? ['n.trigger > m.trigger'] : [])],
        ),
        4,
        { play: `${note}@0+4`, taps: [`m.${port}`] },
      ).lanes(`m.${port}`)[0]!
      expect(
        Math.abs(centsBetween(frequencyOf(out, hzOf(note), 48000, 9600, 144000), hzOf(note))),
      ).toBeLessThan(0.05)
    }
  })
})

describe('frequency and phase modulation', () => {
  it.each([
    ['phase', 'oscillator'],
    ['hz', 'oscillator'],
    ['fm', 'oscillator'],
    ['phase', 'operator'],
    ['hz', 'operator'],
  ])('%s of %s gives the sidebands of theory', (how, type) => {
    for (const index of [0.5, 2, 5]) {
      const bin = Math.round((4000 * SIZE) / 48000),
        side = Math.round((200 * SIZE) / 48000),
        carrier = (bin * 48000) / SIZE,
        modulator = (side * 48000) / SIZE
      const amount =
        how === 'phase'
          ? index / (2 * Math.PI)
          : how === 'hz'
            ? index * modulator
            : (index * modulator) / carrier
      const port = type === 'operator' ? 'out' : 'sine'
      const a = amplitudes(
        hear(
          patchOf(
            [
              [
                'c',
                type,
                type === 'operator'
                  ? { fixed: true, frequency: carrier, envelope: false }
                  : { tracking: false, frequency: carrier },
              ],
              ['m', 'oscillator', { tracking: false, frequency: modulator }],
            ],
            [`m.sine > c.${how} * ${amount}`],
          ),
          2.5,
          { taps: [`c.${port}`] },
        ).tap(`c.${port}`),
        SIZE,
        24000,
      )
      for (let n = 0; n <= 6; n += 1) {
        const expected = Math.abs(bessel(n, index))
        if (expected < 0.01) continue
        for (const sign of [1, -1])
          expect(
            Math.abs(db(a[bin + sign * n * side]!) - db(expected)),
            `${how} ${type} index ${index} sideband ${sign * n}`,
          ).toBeLessThan(0.5)
      }
    }
  })
  it('feedback stays bounded and in tune up to full', () => {
    for (const feedback of [0.3, 0.7, 1]) {
      const out = hear(
        patchOf([['o', 'operator', { fixed: true, frequency: 220, envelope: false, feedback }]], []),
        2,
        { taps: ['o.out'] },
      ).tap('o.out')
      expect(out.every((x) => Math.abs(x) <= 1.001)).toBe(true)
      if (feedback < 1)
        expect(Math.abs(centsBetween(frequencyOf(out, 220, 48000, 9600, 76800), 220))).toBeLessThan(0.1)
    }
  })
})

describe('operator', () => {
  it('follows its envelope and rests when it is over', () => {
    const heard = hear(
      patchOf(
        [
          ['n', 'notes'],
          ['o', 'operator', { attack: 0.01, decay: 0.1, sustain: 0.5, release: 0.05 }],
        ],
        ['n.pitch > o.pitch', 'n.gate > o.gate'],
      ),
      1,
      { play: '60@0.1+0.5', taps: ['o.env', 'o.out'] },
    )
    const env = heard.tap('o.env')
    expect(env[4800 + 480]).toBeCloseTo(1, 2)
    expect(env[4800 + 480 + 4800]).toBeCloseTo(0.5, 2)
    expect(env[28000]).toBeCloseTo(0.5, 4)
    expect(env[28800 + 2402]).toBe(0)
    expect(
      heard
        .tap('o.out')
        .subarray(32000)
        .every((x) => x === 0),
    ).toBe(true)
    expect(
      heard
        .tap('o.out')
        .subarray(0, 4800)
        .every((x) => x === 0),
    ).toBe(true)
  })
})

describe('wavetable', () => {
  it.each(['sweep', 'formant', 'folded', 'organ', 'bell', 'pulse', 'grit', 'drawn'])(
    '%s has no alias above −70 dB and moves with its position',
    (table) => {
      const heard = (note: number, position: number): Float64Array => {
        const hz = (Math.round((hzOf(note) * SIZE) / 48000) * 48000) / SIZE
        return amplitudes(
          hear(
            patchOf(
              [['w', 'wavetable', { tracking: false, frequency: hz, position }, { data: { table } }]],
              [],
            ),
            2,
            { taps: ['w.a'] },
          ).tap('w.a'),
          SIZE,
          24000,
        )
      }
      for (const note of [48, 72, 100]) {
        const bin = Math.round((hzOf(note) * SIZE) / 48000),
          a = heard(note, 0.8)
        let worst = 0,
          most = 0
        for (let i = 50; i < (18000 * SIZE) / 48000; i += 1) {
          if (Math.abs(i - Math.round(i / bin) * bin) > 12) worst = Math.max(worst, a[i]!)
          else most = Math.max(most, a[i]!)
        }
        expect(db(worst / most)).toBeLessThan(-70)
      }
      const low = heard(48, 0),
        high = heard(48, 1),
        bin = Math.round((hzOf(48) * SIZE) / 48000)
      expect(
        Math.max(...[1, 2, 3, 4, 5, 6, 8].map((n) => Math.abs(low[n * bin]! - high[n * bin]!))),
      ).toBeGreaterThan(0.05)
    },
  )
  it('reads b at its offset', () => {
    const heard = hear(
      patchOf(
        [
          ['w', 'wavetable', { position: 0.25, offset: 0.5 }],
          ['v', 'wavetable', { position: 0.75 }],
        ],
        [],
      ),
      0.1,
      { taps: ['w.b', 'v.a'] },
    )
    expect(heard.tap('w.b')).toEqual(heard.tap('v.a'))
  })
})

describe('unison', () => {
  it('keeps its level for any number of copies, spreads and detunes', () => {
    const heard = (copies: number): readonly Float32Array[] =>
      hear(
        patchOf(
          [
            ['n', 'notes'],
            ['u', 'unison', { copies, detune: 30, spread: 1, blend: 1 }],
          ],
          ['n.pitch > u.pitch'],
        ),
        4,
        { play: '48@0+4', taps: ['u.out'] },
      ).lanes('u.out')
    const one = rms(heard(1)[0]!)
    for (const copies of [3, 7, 16]) expect(Math.abs(db(rms(heard(copies)[0]!) / one))).toBeLessThan(2)
    const [left, right] = heard(7)
    expect(left!.some((x, i) => Math.abs(x - right![i]!) > 0.1)).toBe(true)
  })
})

describe('partials', () => {
  it('lie where their series says', () => {
    const series: readonly [string, number, (n: number) => number][] = [
      ['harmonic', 0, (n) => n],
      ['odd', 0, (n) => 2 * n - 1],
      ['stretched', 0.8, (n) => n * Math.sqrt(1 + 0.008 * n * n)],
      ['power', 0.4, (n) => n ** 1.2],
    ]
    for (const [name, stretch, ratio] of series) {
      const out = hear(
        patchOf(
          [
            ['n', 'notes'],
            ['p', 'partials', { count: 6, series: name, stretch }],
          ],
          ['n.pitch > p.pitch'],
        ),
        3,
        { play: '48@0+3', taps: ['p.out'] },
      ).tap('p.out')
      for (let n = 1; n <= 6; n += 1)
        expect(
          Math.abs(
            centsBetween(frequencyOf(out, hzOf(48) * ratio(n), 48000, 4800, 96000), hzOf(48) * ratio(n)),
          ),
          `${name} ${n}`,
        ).toBeLessThan(0.2)
    }
  })
  it('fall by their tilt, and odd and even ones come apart', () => {
    const heard = hear(patchOf([['p', 'partials', { count: 8, tilt: -6.0206 }]], []), 2, {
      taps: ['p.out', 'p.odd', 'p.even'],
    })
    const bin = (n: number): number => Math.round((261.6256 * n * SIZE) / 48000)
    const near = (x: Float32Array, n: number): number => {
      const a = amplitudes(x, SIZE, 24000)
      return Math.max(...Array.from(a.subarray(bin(n) - 3, bin(n) + 4)))
    }
    for (let n = 2; n <= 8; n += 1)
      expect(near(heard.tap('p.out'), n) / near(heard.tap('p.out'), 1)).toBeCloseTo(1 / n, 1)
    expect(near(heard.tap('p.odd'), 2)).toBeLessThan(1e-4)
    expect(near(heard.tap('p.even'), 1)).toBeLessThan(1e-4)
    expect(near(heard.tap('p.even'), 4)).toBeCloseTo(near(heard.tap('p.out'), 4), 3)
  })
  it('take levels, switches and ratios of their own, and move', () => {
    const out = hear(
      patchOf(
        [
          [
            'p',
            'partials',
            { count: 3, series: 'own', tilt: 0 },
            { data: { ratios: [1, 2.7, 5.1], levels: [1, 0.5, 1], on: [true, true, false] } },
          ],
        ],
        [],
      ),
      2,
      { taps: ['p.out'] },
    ).tap('p.out')
    const a = amplitudes(out, SIZE, 24000),
      at = (ratio: number): number =>
        Math.max(
          ...Array.from(
            a.subarray(
              Math.round((261.6256 * ratio * SIZE) / 48000) - 3,
              Math.round((261.6256 * ratio * SIZE) / 48000) + 4,
            ),
          ),
        )
    expect(at(2.7) / at(1)).toBeCloseTo(0.5, 1)
    expect(at(5.1)).toBeLessThan(1e-4)
    const moving = hear(patchOf([['p', 'partials', { count: 1, motion: 1, motionRate: 4 }]], []), 1, {
      taps: ['p.out'],
    }).tap('p.out')
    const blocks = Array.from({ length: 40 }, (_, i) => rms(moving, i * 1200, i * 1200 + 1200))
    expect(Math.min(...blocks)).toBeLessThan(0.05)
    expect(Math.max(...blocks)).toBeGreaterThan(0.5)
  })
})

describe('string', () => {
  it.each([0, 1, 3])('is in tune from A0 to C7 with %s coupled strings', (coupled) => {
    for (const stiffness of [0, 0.4]) {
      for (const note of [21, 33, 45, 60, 72, 84, 96]) {
        const out = hear(
          patchOf(
            [
              ['n', 'notes'],
              ['s', 'string', { coupled, decay: 8, stiffness }],
            ],
            ['n.pitch > s.pitch', 'n.gate > s.gate'],
          ),
          3,
          { play: `${note}@0+3`, taps: ['s.out'] },
        ).tap('s.out')
        expect(
          Math.abs(centsBetween(frequencyOf(out, hzOf(note), 48000, 12000, 120000), hzOf(note))),
          `note ${note} stiffness ${stiffness}`,
        ).toBeLessThan(0.5)
        expect(out.every((x) => Math.abs(x) < 6)).toBe(true)
      }
    }
  })
  it('decays by 60 dB in its decay time', () => {
    const out = hear(
      patchOf(
        [
          ['n', 'notes'],
          ['s', 'string', { decay: 1, damping: 0.2 }],
        ],
        ['n.pitch > s.pitch', 'n.gate > s.gate'],
      ),
      2,
      { play: '48@0+2', taps: ['s.out'] },
    ).tap('s.out')
    const level = (at: number): number => {
      const a = amplitudes(out, 8192, at),
        bin = Math.round((hzOf(48) * 8192) / 48000)
      return db(Math.max(a[bin - 1]!, a[bin]!, a[bin + 1]!))
    }
    expect(level(9600) - level(9600 + 24000)).toBeCloseTo(30, 0)
  })
  it('plucked in the middle it lacks the even partials', () => {
    const out = hear(
      patchOf(
        [
          ['n', 'notes'],
          ['s', 'string', { position: 0.5, damping: 0 }],
        ],
        ['n.pitch > s.pitch', 'n.gate > s.gate'],
      ),
      2,
      { play: '48@0+2', taps: ['s.out'] },
    ).tap('s.out')
    const a = amplitudes(out, SIZE, 4800),
      at = (n: number): number =>
        Math.max(
          ...Array.from(
            a.subarray(
              Math.round((hzOf(48) * n * SIZE) / 48000) - 4,
              Math.round((hzOf(48) * n * SIZE) / 48000) + 5,
            ),
          ),
        )
    expect(db(at(2) / at(1))).toBeLessThan(-35)
    expect(db(at(4) / at(3))).toBeLessThan(-25)
  })
  it('falls silent in the end and wakes again', () => {
    const out = hear(
      patchOf(
        [
          ['n', 'notes'],
          ['s', 'string', { decay: 0.1 }],
        ],
        ['n.pitch > s.pitch', 'n.gate > s.gate'],
      ),
      4,
      { play: '60@0+0.2 60@3+0.2', taps: ['s.out'] },
    ).tap('s.out')
    expect(out.subarray(110000, 143999).every((x) => x === 0)).toBe(true)
    expect(rms(out, 144000, 150000)).toBeGreaterThan(0.05)
  })
})

describe('modes', () => {
  it('ring at the textbook ratios', () => {
    const ratios: Readonly<Record<string, readonly number[]>> = {
      bar: [1, 2.7565, 5.4039, 8.933],
      membrane: [1, 1.5933, 2.1355, 2.2954, 2.6531],
      bell: [0.5, 1, 1.183, 1.506, 2],
    }
    for (const [model, list] of Object.entries(ratios)) {
      const out = hear(
        patchOf(
          [
            ['n', 'notes'],
            ['m', 'modes', { model, count: 16, decay: 20 }],
          ],
          ['n.pitch > m.pitch', 'n.trigger > m.trigger'],
        ),
        3,
        { play: '60@0+3', taps: ['m.out'] },
      ).tap('m.out')
      for (const ratio of list)
        expect(
          Math.abs(centsBetween(frequencyOf(out, 261.6256 * ratio, 48000, 4800, 120000), 261.6256 * ratio)),
          `${model} ${ratio}`,
        ).toBeLessThan(1)
    }
  })
  it('decay by 60 dB in the time set', () => {
    const out = hear(
      patchOf(
        [
          ['n', 'notes'],
          ['m', 'modes', { count: 1, decay: 0.5 }],
        ],
        ['n.pitch > m.pitch', 'n.trigger > m.trigger'],
      ),
      1,
      { play: '60@0+1', taps: ['m.out'] },
    ).tap('m.out')
    expect(db(rms(out, 2400, 4800) / rms(out, 14400, 16800))).toBeCloseTo(30, 1)
  })
})

describe('strike and value', () => {
  it('a mallet is softer when struck softly, and every hit is over after its length', () => {
    const heard = (velocity: number): Float32Array =>
      hear(
        patchOf(
          [
            ['n', 'notes'],
            ['s', 'strike', { kind: 'mallet', length: 10 }],
          ],
          ['n.trigger > s.trigger', 'n.velocity > s.velocity'],
        ),
        0.2,
        { play: `60@0.05+0.1:${velocity}`, taps: ['s.out'] },
      ).tap('s.out')
    expect(Math.max(...heard(1))).toBeCloseTo(1, 2)
    expect(Math.max(...heard(0.3))).toBeCloseTo(0.3, 2)
    expect(
      heard(1)
        .subarray(2400 + 481)
        .every((x) => Math.abs(x) < 1e-5),
    ).toBe(true)
  })
  it('semitones and octaves are exact', () => {
    const heard = hear(
      patchOf(
        [
          ['a', 'value', { value: 7, unit: 'semitones' }],
          ['b', 'value', { value: 0.585, unit: 'octaves' }],
          ['c', 'value', { value: 69, unit: 'note' }],
          ['s', 'shift', { semitones: 12 }],
        ],
        [],
      ),
      0.01,
      { taps: ['a.out', 'b.out', 'c.out', 's.out'] },
    )
    expect(heard.tap('a.out')[0]).toBe(Math.fround(7 / 12))
    expect(heard.tap('b.out')[0]).toBe(Math.fround(0.585))
    expect(heard.tap('c.out')[0]).toBe(0.75)
    expect(heard.tap('s.out')[0]).toBe(1)
  })
})

describe('struck and driven bodies keep to their level', () => {
  const peakOf = (x: Float32Array): number => db(x.reduce((most, y) => Math.max(most, Math.abs(y)), 0))

  it.each(['modes', 'string'])('a strike into %s peaks between −12 and +3 dBFS', (body) => {
    for (const kind of ['click', 'noise', 'mallet'])
      for (let note = 24; note <= 96; note += 6) {
        const patch = patchOf(
          [
            ['n', 'notes'],
            ['s', 'strike', { kind }],
            ['m', body],
          ],
          ['n.trigger > s.trigger', 'n.pitch > m.pitch', 's.out > m.excite'],
        )
        const peak = peakOf(hear(patch, 1, { play: `${note}@0.01+0.9`, taps: ['m.out'] }).tap('m.out'))
        expect(peak, `${kind} ${note}`).toBeGreaterThan(-12)
        expect(peak, `${kind} ${note}`).toBeLessThan(3)
      }
  })

  it.each([
    ['modes', 'excite', {}],
    ['string', 'excite', {}],
    ['string', 'excite', { coupled: 3, coupling1: 1, coupling2: 1, coupling3: 1, decay: 60 }],
    ['comb', 'in', {}],
    ['comb', 'in', { feedback: 1, feedforward: 1, damping: 0 }],
  ])('white noise at −12 dBFS into %s stays below +12 dBFS', (body, port, params) => {
    for (const note of [24, 60, 96]) {
      const patch = patchOf(
        [
          ['n', 'notes'],
          ['w', 'noise'],
          ['m', body, params],
        ],
        ['n.pitch > m.pitch', `w.white > m.${port} * 0.2512`],
      )
      expect(
        peakOf(hear(patch, 4, { play: `${note}@0+4`, taps: ['m.out'] }).tap('m.out')),
        `${note}`,
      ).toBeLessThan(12)
    }
  })

  it('a stiffness barely above 0 changes a string barely', () => {
    const pluck = (stiffness: number): Float32Array =>
      hear(
        patchOf(
          [
            ['n', 'notes'],
            ['s', 'string', { stiffness }],
          ],
          ['n.pitch > s.pitch', 'n.gate > s.gate'],
        ),
        0.5,
        { play: '52@0+0.5', taps: ['s.out'] },
      ).tap('s.out')
    const [none, barely] = [pluck(0), pluck(1e-6)]
    const apart = none!.map((x, i) => x - barely![i]!)
    expect(rms(apart) / rms(none!)).toBeLessThan(1e-3)
  })
})
