import { describe, expect, it } from 'vitest'
import { pictureOf } from '../../../patch/picture.ts'
import { hear, patchOf } from '../../../testing/bench.ts'
import { amplitudes, db } from '../../../testing/measure.ts'
import { hzOf } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('wavetable', {
  inputs: 'pitch fm hz phase sync reset',
  outputs: 'a b',
  params: 'position offset octave semitones fine tracking frequency level',
  data: 'table',
})

const SIZE = 65536

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

describe('wavetable', () => {
  it('goes on frame by frame whatever is connected', () => {
    const patch = patchOf(
      [
        ['l', 'lfo', { rate: 5 }],
        ['w', 'wavetable', { frequency: 1000, tracking: false }],
        ['o', 'oscillator', { frequency: 1000, tracking: false }],
      ],
      ['l.sine > w.fm * 0.01', 'l.sine > o.fm * 0.01'],
    )
    const heard = hear(patch, 0.5, { taps: ['w.a', 'o.sine'] })
    const [a, b] = [heard.tap('w.a'), heard.tap('o.sine')]
    for (let i = 0; i < a.length; i += 1) expect(Math.abs(a[i]! - b[i]!)).toBeLessThan(2e-3)
  })
})

describe('the picture of a wavetable', () => {
  /** A recording of two frames that are not alike, neither at its peak and one of them beside zero. */
  const samples = Float32Array.from({ length: 4096 }, (_, i) => {
    const p = (2 * Math.PI * i) / 2048
    return i < 2048 ? 0.2 + 0.4 * Math.sin(p) : 0.3 * Math.sin(3 * p) + 0.1 * Math.cos(p)
  })
  const assets = { mine: { kind: 'table', file: 'assets/mine.wav' } }
  const sounds = new Map([['mine', { rate: 48000, channels: [samples] }]])
  /** One cycle as it is heard: 1024 samples a cycle. */
  const heard = (table: string, position: number): readonly number[] => {
    const patch = {
      ...patchOf(
        [['w', 'wavetable', { tracking: false, frequency: 46.875, position }, { data: { table } }]],
        [],
      ),
      assets,
    }
    const wave = hear(patch, 0.1, { taps: ['w.a'], assets: sounds }).tap('w.a')
    return Array.from({ length: 257 }, (_, i) => wave[2048 + 4 * i]!)
  }
  const drawn = (table: string, position: number, mine = samples): readonly number[] => {
    const picture = pictureOf(
      { id: 'w', type: 'wavetable', params: { position }, data: { table } },
      undefined,
      (name) => (name === 'mine' ? { peaks: [], seconds: 0, samples: mine } : undefined),
    )!
    return picture.curves[0]!.points.map(([, y]) => (y - 0.5) / 0.47)
  }

  it.each(['organ', 'mine'])('of %s is the wave that is heard, between its frames as well', (table) => {
    for (const position of [0, 0.3, 0.5, 1]) {
      const [a, b] = [heard(table, position), drawn(table, position)]
      // Heard at a level of the module's own; the shape is what is drawn.
      const scale = Math.max(...a.map(Math.abs)) / Math.max(...b.map(Math.abs))
      const off = Math.max(...a.map((x, i) => Math.abs(x / scale - b[i]!)))
      expect(off).toBeLessThan(0.03)
    }
  })

  it('of silence, and of a recording without samples, is a level line', () => {
    for (const empty of [new Float32Array(2048), new Float32Array(4096).fill(0.5), new Float32Array(0)])
      expect(drawn('mine', 0.5, empty).every((level) => Math.abs(level) < 1e-9)).toBe(true)
  })

  it('is the built-in wave until the recording is there', () => {
    const there = pictureOf({ id: 'w', type: 'wavetable', data: { table: 'mine' } })!
    expect(there.curves).toEqual(pictureOf({ id: 'w', type: 'wavetable' })!.curves)
  })
})
