/** Levels over frequency, with peaks, held levels and marked sidebands. */
import { peaksOf, type Spectrum, type SpectrumPeak, spectrumOf } from '../analysis/spectrum.ts'
import { noteName, noteOfHz } from '../units/units.ts'
import { type Curve, levelsOf, type Mark, type Plot } from './plot.ts'
import { modulationOf, type Sideband, sidebandsOf, sidebandWords } from './sidebands.ts'
import type { ProbeSettings } from './settings.ts'
import type { Tape } from './tape.ts'

export const FLOOR_DB = -110
const TOP_DB = 6
const LOW_HZ = 20,
  HIGH_HZ = 20000
/** Peaks that have words. */
const NAMED_PEAKS = 8
/** Sidebands further below the loudest peak than this are noise. */
const DEEPEST_DB = 80

/** `A4 440.0 Hz`, with cents where it is no note of the scale. */
export const pitchWords = (hz: number): string =>
  `${noteName(Math.round(noteOfHz(hz)))} ${hz < 1000 ? hz.toFixed(1) : hz.toFixed(0)}`

const peakMarks = (peaks: readonly SpectrumPeak[]): Mark[] =>
  peaks
    .filter(({ hz }) => hz >= LOW_HZ)
    .slice(0, NAMED_PEAKS)
    .map(({ hz, db }) => ({ kind: 'peak', x: hz, y: db, words: pitchWords(hz) }))

/** Level at a place of a spectrum in decibels: the highest of the bins around it. */
const levelAt = ({ amplitudes, binHz }: Spectrum, hz: number): number => {
  const bin = Math.round(hz / binHz)
  let most = 0
  for (let k = Math.max(0, bin - 2); k <= bin + 2; k += 1) most = Math.max(most, amplitudes[k] ?? 0)
  return 20 * Math.log10(Math.max(most, 1e-12))
}

/** A sideband that is heard, with its level in decibels. */
export interface HeardSideband extends Sideband {
  readonly db: number
}

/** Sidebands that stand out of a spectrum, by order; none where there is no carrier. */
export const heardSidebands = (
  spectrum: Spectrum,
  rate: number,
  { carrier, modulator }: Pick<ProbeSettings, 'carrier' | 'modulator'>,
): readonly HeardSideband[] => {
  if (carrier === 'off') return []
  const peaks = peaksOf(spectrum)
  const found = modulationOf(peaks, rate, {
    ...(carrier === 'auto' ? {} : { carrier }),
    ...(modulator === 'auto' ? {} : { modulator }),
  })
  if (!found) return []
  const loudest = peaks[0]?.db ?? -Infinity
  return sidebandsOf(found.carrier, found.modulator, rate)
    .map((sideband) => ({ ...sideband, db: levelAt(spectrum, sideband.hz) }))
    .filter(({ db, order }) => order === 0 || db > loudest - DEEPEST_DB)
}

const sidebandMark = (sideband: HeardSideband): Mark => ({
  kind: sideband.kind,
  x: sideband.hz,
  y: sideband.db,
  words: `${sidebandWords(sideband)} ${sideband.hz.toFixed(sideband.hz < 1000 ? 1 : 0)}`,
})

/** Loudest first: where there is no room for all, the most important have words. */
const byLevel = (marks: readonly Mark[]): Mark[] =>
  [...marks].sort((a, b) => Number(b.kind === 'carrier') - Number(a.kind === 'carrier') || b.y - a.y)

export class SpectrumView {
  private held: Float64Array | undefined

  /** `isWhole`: all of the tape counts, not only the newest stretch. */
  look(tape: Tape, settings: ProbeSettings, isWhole = false): Plot {
    const { rate } = tape
    const channels = tape.last(isWhole ? tape.frames : settings.size)
    const spectrum = spectrumOf(channels, rate)
    const { amplitudes, binHz } = spectrum
    const places = Float32Array.from(amplitudes, (_, k) => k * binHz)
    const curves: Curve[] = [
      { name: 'spectrum', x: places, y: levelsOf(amplitudes, FLOOR_DB), style: 'line' },
    ]
    if (settings.holdsPeaks) {
      if (this.held?.length !== amplitudes.length) this.held = undefined
      this.held = this.held ? this.held.map((x, k) => Math.max(x, amplitudes[k]!)) : amplitudes.slice()
      curves.push({ name: 'held', x: places.slice(), y: levelsOf(this.held, FLOOR_DB), style: 'line' })
    } else this.held = undefined
    const sidebands = heardSidebands(spectrum, rate, settings)
    const carrier = sidebands.find(({ order }) => order === 0),
      first = sidebands.find(({ order, kind }) => Math.abs(order) === 1 && kind !== 'folded')
    return {
      across: {
        unit: 'Hz',
        scale: settings.scale,
        from: settings.scale === 'log' ? LOW_HZ : 0,
        to: Math.min(HIGH_HZ, rate / 2),
      },
      up: { unit: 'dB', scale: 'linear', from: FLOOR_DB, to: TOP_DB },
      curves,
      marks: sidebands.length > 0 ? byLevel(sidebands.map(sidebandMark)) : peakMarks(peaksOf(spectrum)),
      readings: carrier
        ? [
            { name: 'carrier', value: carrier.hz, unit: 'Hz' },
            { name: 'modulator', value: first ? Math.abs(first.hz - carrier.hz) : null, unit: 'Hz' },
          ]
        : [],
    }
  }
}
