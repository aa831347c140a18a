/** What a path of the patch answers: to a click, and what is read from that. */
import { type Response, responseOf } from '../analysis/response.ts'
import { levelsOf, type Plot } from './plot.ts'
import { roundAbove, sideName, waveOf } from './scope.ts'
import { decayPlot, densityPlot } from './decays.ts'
import type { ProbeKind } from './settings.ts'

/** An impulse response by side. */
export interface PathSound {
  readonly rate: number
  readonly channels: readonly Float32Array[]
}

const LOW_HZ = 20,
  HIGH_HZ = 20000,
  FLOOR_DB = -90
/** Of an impulse the stretch is shown in which it is above this share of its top. */
const HEARD = 0.002
const LEAST_SECONDS = 0.005

const isResponseKind = (kind: ProbeKind): kind is ResponseKind =>
  ['impulse', 'magnitude', 'phase', 'delay', 'decay', 'density'].includes(kind)
export type ResponseKind = Extract<
  ProbeKind,
  'impulse' | 'magnitude' | 'phase' | 'delay' | 'decay' | 'density'
>
export { isResponseKind }

const impulsePlot = ({ rate, channels }: PathSound): Plot => {
  let most = 0,
    last = 0
  for (const channel of channels) for (const x of channel) most = Math.max(most, Math.abs(x))
  for (const channel of channels)
    for (let i = channel.length - 1; i > last; i -= 1)
      if (Math.abs(channel[i]!) > HEARD * most) {
        last = i
        break
      }
  const seconds = Math.max(LEAST_SECONDS, (1.1 * last) / rate),
    top = roundAbove(Math.max(most, 1e-3))
  return {
    across: { unit: 's', scale: 'linear', from: 0, to: seconds },
    up: { unit: '', scale: 'linear', from: -top, to: top },
    curves: channels.map((x, side) => waveOf(x, 0, seconds * rate, rate, sideName(side, channels.length))),
    marks: [],
    readings: [{ name: 'longest', value: last / rate, unit: 's' }],
  }
}

/** Rows over frequency, from `LOW_HZ` up. */
const overHertz = (row: ArrayLike<number>, { binHz }: Response, name: string): Plot['curves'][number] => {
  const first = Math.max(1, Math.floor(LOW_HZ / binHz))
  const length = Math.max(0, row.length - first)
  return {
    name,
    x: Float32Array.from({ length }, (_, k) => (first + k) * binHz),
    y: Float32Array.from({ length }, (_, k) => row[first + k]!),
    style: 'line',
  }
}

/** Lowest and highest of what is heard: where nothing is left of a frequency its phase says nothing. */
const spanOf = (row: Float64Array, { magnitude, binHz }: Response): readonly [number, number] => {
  let low = Infinity,
    high = -Infinity
  const loudest = magnitude.reduce((most, db) => Math.max(most, db), -Infinity)
  row.forEach((value, k) => {
    if (k * binHz < LOW_HZ || k * binHz > HIGH_HZ || magnitude[k]! < loudest - 60) return
    low = Math.min(low, value)
    high = Math.max(high, value)
  })
  return low <= high ? [low, high] : [0, 0]
}

const overall = (unit: string, from: number, to: number, curve: Plot['curves'][number]): Plot => ({
  across: { unit: 'Hz', scale: 'log', from: LOW_HZ, to: HIGH_HZ },
  up: { unit, scale: 'linear', from, to: to > from ? to : from + 1 },
  curves: [curve],
  marks: [],
  readings: [],
})

const magnitudePlot = (response: Response): Plot => {
  const gains = response.magnitude.map((db) => 10 ** (db / 20))
  const [low, high] = spanOf(response.magnitude, response)
  const top = Math.max(6, 6 * Math.ceil((high + 1) / 6)),
    foot = Math.max(FLOOR_DB, Math.min(-24, 6 * Math.floor((low - 1) / 6)))
  const curve = overHertz(levelsOf(gains, FLOOR_DB), response, 'magnitude')
  return {
    ...overall('dB', foot, top, curve),
    readings: [{ name: 'highest', value: high, unit: 'dB' }],
  }
}

const phasePlot = (response: Response): Plot => {
  // Within half a turn on either side, as it is read.
  const degrees = response.phase.map((angle) => {
    const turn = angle / (2 * Math.PI)
    return 360 * (turn - Math.round(turn))
  })
  return overall('°', -180, 180, overHertz(degrees, response, 'phase'))
}

const delayPlot = (response: Response): Plot => {
  const [low, high] = spanOf(response.groupDelay, response)
  const top = roundAbove(Math.max(high, 1e-4))
  return overall(
    's',
    low < -1e-6 ? -roundAbove(-low) : 0,
    top,
    overHertz(response.groupDelay, response, 'group delay'),
  )
}

/** The plot of a path's answer. */
export const responsePlot = (kind: ResponseKind, sound: PathSound): Plot => {
  switch (kind) {
    case 'impulse':
      return impulsePlot(sound)
    case 'decay':
      return decayPlot(sound.channels, sound.rate)
    case 'density':
      return densityPlot(sound.channels, sound.rate)
    case 'magnitude':
      return magnitudePlot(responseOf(sound.channels, sound.rate))
    case 'phase':
      return phasePlot(responseOf(sound.channels, sound.rate))
    case 'delay':
      return delayPlot(responseOf(sound.channels, sound.rate))
  }
}
