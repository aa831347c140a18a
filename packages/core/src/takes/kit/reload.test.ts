/** A kit of Reed Lamp, loaded again: at its own notes the sampler sounds as the patch does. */
import { describe, expect, it } from 'vitest'
import { render } from '../../render/render.ts'
import { patchOf } from '../../testing/bench.ts'
import { kitMade } from '../../testing/kits.ts'
import { testKernels } from '../../testing/kernels.ts'
import { amplitudes, db } from '../../testing/measure.ts'
import { demoPatch } from '../../testing/patches.ts'
import type { AssetSound } from '../../describe/types.ts'
import type { Patch } from '../../patch/types.ts'

const NOTES = [45, 57, 69]
const HOLD = 1.5
const SIZE = 131072
const RATE = 48000

const played = (
  patch: Patch,
  note: number,
  assets: ReadonlyMap<string, AssetSound>,
): readonly Float32Array[] => {
  const result = render(testKernels(), patch, {
    events: [
      { t: 0, type: 'on', note, velocity: 1, id: 1 },
      { t: HOLD, type: 'off', note, id: 1 },
    ],
    seconds: SIZE / RATE,
    assets,
  })
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return result.value.sound.channels
}

/** Level of every octave from 32 Hz to 16 kHz, both sides together, in dB. */
const octaves = (channels: readonly Float32Array[]): number[] => {
  const spectra = channels.map((channel) => amplitudes(channel, SIZE))
  return Array.from({ length: 9 }, (_, n) => {
    const from = Math.round((31.5 * 2 ** n * SIZE) / RATE)
    let power = 0
    for (const spectrum of spectra) for (let k = from; k < 2 * from; k += 1) power += spectrum[k]! ** 2
    return db(Math.sqrt(power))
  })
}

describe('a kit of Reed Lamp in the sampler', () => {
  it('sounds within a decibel of the patch in every octave, at every one of its notes', async () => {
    const patch = demoPatch('reed-lamp')
    const { store } = await kitMade(patch, { notes: NOTES, hold: HOLD, tail: { db: -60, most: 4 } })
    const assets = new Map(NOTES.map((note) => [`k${note}`, store.sound(`Reed_Lamp-${note}.wav`)]))
    for (const note of NOTES) expect(assets.get(`k${note}`)!.root).toBe(note)
    const sampler = patchOf(
      [
        ['n', 'notes', { voices: 4, mode: 'poly' }],
        [
          's',
          'sampler',
          { mode: 'oneshot', attack: 0 },
          {
            data: {
              zones: NOTES.map((note) => ({ asset: `k${note}`, lowKey: note - 6, highKey: note + 5 })),
            },
          },
        ],
        ['out', 'output', { level: 0 }],
      ],
      ['n.pitch > s.pitch', 'n.gate > s.gate', 'n.velocity > s.velocity', 's.out > out.in'],
      {
        assets: Object.fromEntries(
          NOTES.map((note) => [`k${note}`, { kind: 'audio', file: `assets/k${note}.wav` }]),
        ),
      },
    )
    for (const note of NOTES) {
      const own = octaves(played(patch, note, new Map())),
        again = octaves(played(sampler, note, assets)),
        top = Math.max(...own)
      own.forEach((level, n) => {
        // What is 90 dB below the loudest octave is the dither's.
        if (level > top - 90) expect(Math.abs(again[n]! - level), `note ${note}, octave ${n}`).toBeLessThan(1)
      })
    }
  })
})
