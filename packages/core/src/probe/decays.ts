/** How a sound dies away by octave, and how thick its echoes are. */
import { decayByOctave, decaySeconds } from '../analysis/decay.ts'
import { DENSITY_STEP_SECONDS, echoDensityOf } from '../analysis/density.ts'
import { finite, type Plot } from './plot.ts'
import { roundAbove } from './scope.ts'

/** Echo density from which on a tail counts as dense. */
const DENSE = 0.9

export const decayPlot = (channels: readonly Float32Array[], rate: number): Plot => {
  const octaves = decayByOctave(channels, rate),
    whole = decaySeconds(channels, rate)
  const most = octaves.reduce((high, { seconds }) => Math.max(high, seconds), whole ?? 0)
  return {
    across: { unit: 'Hz', scale: 'log', from: 125 / Math.SQRT2, to: 8000 * Math.SQRT2 },
    up: { unit: 's', scale: 'linear', from: 0, to: roundAbove(Math.max(most, 0.01)) },
    curves: [
      {
        name: 'decay to −60 dB',
        x: Float32Array.from(octaves, ({ hz }) => hz),
        y: Float32Array.from(octaves, ({ seconds }) => seconds),
        style: 'bars',
      },
    ],
    marks: octaves.map(({ hz, seconds }) => ({
      kind: 'peak',
      x: hz,
      y: seconds,
      words: `${seconds.toFixed(seconds < 1 ? 3 : 2)} s`,
    })),
    readings: [
      { name: 'whole', value: finite(whole), unit: 's' },
      ...octaves.map(({ hz, seconds }) => ({ name: `${hz} Hz`, value: seconds, unit: 's' })),
    ],
  }
}

export const densityPlot = (channels: readonly Float32Array[], rate: number): Plot => {
  const density = echoDensityOf(channels, rate),
    dense = density.findIndex((value) => value >= DENSE)
  const seconds = Math.max(0.1, density.length * DENSITY_STEP_SECONDS)
  return {
    across: { unit: 's', scale: 'linear', from: 0, to: seconds },
    up: { unit: '', scale: 'linear', from: 0, to: Math.max(1.2, ...density.map((value) => 1.05 * value)) },
    curves: [
      {
        name: 'echo density',
        x: Float32Array.from(density, (_, n) => n * DENSITY_STEP_SECONDS),
        y: Float32Array.from(density),
        style: 'line',
      },
    ],
    marks: [],
    readings: [
      { name: 'dense from', value: dense < 0 ? null : dense * DENSITY_STEP_SECONDS, unit: 's' },
      { name: 'highest', value: density.length > 0 ? Math.max(...density) : null, unit: '' },
    ],
  }
}

/** Stretches of so many seconds are compared to find where a sound was struck. */
const HOP_SECONDS = 0.01
/** A stretch this much louder than the one before is a strike. */
const STRIKE = 4
/** Nothing below this is one. */
const QUIET = 1e-8

/** From the last strike on: what a decay is measured of. All of it where there is none. */
export const sinceStrike = (channels: readonly Float32Array[], rate: number): Float32Array[] => {
  const size = Math.round(HOP_SECONDS * rate),
    frames = channels[0]?.length ?? 0
  const powers: number[] = []
  for (let at = 0; at + size <= frames; at += size) {
    let sum = 0
    for (const channel of channels) for (let i = at; i < at + size; i += 1) sum += channel[i]! ** 2
    powers.push(sum / size)
  }
  const loudest = powers.reduce((most, power) => Math.max(most, power), 0)
  let strike = 0
  powers.forEach((power, n) => {
    const before = powers[n - 1] ?? 0
    if (power > QUIET && power > 0.1 * loudest && power > STRIKE * before) strike = n
  })
  // A strike within a stretch began within the one before.
  return channels.map((channel) => channel.slice(Math.max(0, (strike - 1) * size)))
}
