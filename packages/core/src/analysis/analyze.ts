/** Everything a sound can be measured for, in one report. */
import type { Sound } from '../formats/wav.ts'
import { decayByOctave, decaySeconds, type OctaveDecay } from './decay.ts'
import { DENSITY_STEP_SECONDS, echoDensityOf } from './density.ts'
import { measureLoudness } from './loudness.ts'
import { pitchOf } from './pitch.ts'
import { peaksOf, type SpectrumPeak, spectrumOf } from './spectrum.ts'
import { peakOf, truePeakOf } from './truepeak.ts'

/** Levels in dB of full scale, loudness in LUFS and LU; null where a sound has none of it (silence, no pitch, no decay). */
export interface SoundReport {
  readonly rate: number
  readonly channels: number
  readonly seconds: number
  readonly peakDb: number | null
  readonly truePeakDb: number | null
  readonly rmsDb: number | null
  readonly lufs: number | null
  readonly momentaryLufs: number | null
  readonly shortTermLufs: number | null
  readonly loudnessRange: number
  readonly pitchHz: number | null
  readonly decaySeconds: number | null
  readonly decayOctaves: readonly OctaveDecay[]
  readonly peaks: readonly SpectrumPeak[]
  readonly echoDensity: readonly number[]
  /** Seconds from one value of the echo density to the next. */
  readonly echoDensityStep: number
}

const finite = (x: number | undefined): number | null => (x !== undefined && Number.isFinite(x) ? x : null)
const decibels = (x: number): number | null => finite(20 * Math.log10(x))

export const analyze = (sound: Sound): SoundReport => {
  const { rate, channels } = sound
  const frames = channels[0]?.length ?? 0
  const power = channels.reduce(
    (sum, channel) =>
      sum + channel.reduce((all, x) => all + x * x, 0) / Math.max(1, frames * channels.length),
    0,
  )
  const loud = measureLoudness(sound)
  return {
    rate,
    channels: channels.length,
    seconds: frames / rate,
    peakDb: decibels(peakOf(channels)),
    truePeakDb: decibels(truePeakOf(channels)),
    rmsDb: decibels(Math.sqrt(power)),
    lufs: finite(loud.integrated),
    momentaryLufs: finite(loud.momentary),
    shortTermLufs: finite(loud.shortTerm),
    loudnessRange: loud.range,
    pitchHz: finite(pitchOf(channels, rate)),
    decaySeconds: finite(decaySeconds(channels, rate)),
    decayOctaves: decayByOctave(channels, rate),
    peaks: peaksOf(spectrumOf(channels, rate)),
    echoDensity: echoDensityOf(channels, rate),
    echoDensityStep: DENSITY_STEP_SECONDS,
  }
}
