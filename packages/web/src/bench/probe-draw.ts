/** Scope, spectrum and level of one signal: how they are worked out and drawn. */
import { noteName, noteOfHz } from '@ypsilon/core'
import FFT from 'fft.js'
import { RING } from '../audio/messages.ts'
import type { Picture } from '../audio/pictures.ts'
import type { Ink } from './frames.ts'

const SIZE = 8192
const fft = new FFT(SIZE)
const LOW_HZ = 20,
  HIGH_HZ = 20000,
  FLOOR_DB = -96

/** The last samples of one signal, put together from the worklet's rings. */
export class ProbeTape {
  readonly samples = new Float32Array(SIZE)
  private seen = -1
  take(picture: Picture | undefined, time: number): void {
    // Until the engine knows that it is probed, a signal comes thinned.
    if (!picture || picture.ring.length < RING || time === this.seen) return
    this.seen = time
    this.samples.copyWithin(0, RING)
    const tail = SIZE - RING
    for (let i = 0; i < RING; i += 1) this.samples[tail + i] = picture.ring[(picture.position + i) % RING]!
  }
}

const window4 = Float64Array.from(
  { length: SIZE },
  (_, i) =>
    0.35875 -
    0.48829 * Math.cos((2 * Math.PI * i) / SIZE) +
    0.14128 * Math.cos((4 * Math.PI * i) / SIZE) -
    0.01168 * Math.cos((6 * Math.PI * i) / SIZE),
)
const windowed = new Array<number>(SIZE).fill(0)
const spectrum = fft.createComplexArray()
const levels = new Float64Array(SIZE / 2)

export const analyse = (samples: Float32Array): void => {
  for (let i = 0; i < SIZE; i += 1) windowed[i] = samples[i]! * window4[i]!
  fft.realTransform(spectrum, windowed)
  for (let i = 0; i < SIZE / 2; i += 1)
    levels[i] =
      20 *
      Math.log10(Math.max(1e-9, (2 * Math.hypot(spectrum[2 * i]!, spectrum[2 * i + 1]!)) / (0.35875 * SIZE)))
}

interface Frame {
  readonly context: CanvasRenderingContext2D
  readonly width: number
  readonly height: number
}

const framed = (canvas: HTMLCanvasElement, ink: Ink): Frame => {
  const ratio = Math.min(2, window.devicePixelRatio || 1)
  const { clientWidth: width, clientHeight: height } = canvas
  if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
    canvas.width = Math.round(width * ratio)
    canvas.height = Math.round(height * ratio)
  }
  const context = canvas.getContext('2d')!
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  context.clearRect(0, 0, width, height)
  context.strokeStyle = ink.colour('rule')
  context.lineWidth = 1
  context.strokeRect(0.5, 0.5, width - 1, height - 1)
  return { context, width, height }
}

/** Frames a scope of so many milliseconds shows. */
export const scopeFrames = (windowMs: number, sampleRate: number): number =>
  Math.min(SIZE - 2, Math.round((windowMs * sampleRate) / 1000))

/** Scope: from the last rising crossing that leaves a whole window, so that a tone stands still. */
export const drawScope = (canvas: HTMLCanvasElement, ink: Ink, samples: Float32Array, span: number): void => {
  const { context, width, height } = framed(canvas, ink)
  let start = SIZE - span
  for (let i = SIZE - span; i > Math.max(1, SIZE - 2 * span - 2400); i -= 1)
    if (samples[i - 1]! <= 0 && samples[i]! > 0) {
      start = i
      break
    }
  context.strokeStyle = ink.colour('rule')
  context.beginPath()
  for (let n = 1; n < 8; n += 1) {
    const x = Math.round((width * n) / 8) + 0.5
    context.moveTo(x, 0)
    context.lineTo(x, height)
  }
  context.moveTo(0, Math.round(height / 2) + 0.5)
  context.lineTo(width, Math.round(height / 2) + 0.5)
  context.stroke()
  let size = 0.01
  for (let i = start; i < start + span; i += 1) size = Math.max(size, Math.abs(samples[i]!))
  context.strokeStyle = ink.colour('audio')
  context.lineWidth = 1.6
  context.beginPath()
  for (let x = 0; x <= width; x += 0.5) {
    const at = start + (x / width) * (span - 1)
    const i = Math.floor(at),
      f = at - i
    const y = height / 2 - (height / 2 - 8) * ((samples[i]! * (1 - f) + (samples[i + 1] ?? 0) * f) / size)
    if (x === 0) context.moveTo(x, y)
    else context.lineTo(x, y)
  }
  context.stroke()
}

const xOf = (hz: number, width: number): number =>
  (width * Math.log(hz / LOW_HZ)) / Math.log(HIGH_HZ / LOW_HZ)

/** Strongest peaks with a parabola through their three bins. */
const peaks = (sampleRate: number): { hz: number; db: number }[] => {
  const bin = sampleRate / SIZE
  const found: { hz: number; db: number }[] = []
  for (let i = 3; i < SIZE / 2 - 3; i += 1) {
    const b = levels[i]!
    if (
      b < -72 ||
      b <= levels[i - 1]! ||
      b < levels[i + 1]! ||
      b < levels[i - 3]! + 3 ||
      b < levels[i + 3]! + 3
    )
      continue
    const a = levels[i - 1]!,
      c = levels[i + 1]!
    found.push({ hz: (i + (0.5 * (a - c)) / (a - 2 * b + c)) * bin, db: b })
  }
  return found.sort((p, q) => q.db - p.db).slice(0, 4)
}

export const drawSpectrum = (canvas: HTMLCanvasElement, ink: Ink, sampleRate: number): void => {
  const { context, width, height } = framed(canvas, ink)
  const y = (db: number): number => 4 + ((height - 8) * Math.min(0, db)) / FLOOR_DB
  context.fillStyle = ink.colour('ink2')
  context.font = '11px "Atkinson Hyperlegible Mono Variable", monospace'
  context.beginPath()
  for (const hz of [100, 1000, 10000]) {
    const x = Math.round(xOf(hz, width)) + 0.5
    context.moveTo(x, 0)
    context.lineTo(x, height)
    context.fillText(hz < 1000 ? String(hz) : `${hz / 1000} k`, x + 3, height - 4)
  }
  context.stroke()
  context.strokeStyle = ink.colour('audio')
  context.lineWidth = 1.25
  context.beginPath()
  const bin = sampleRate / SIZE
  for (let x = 0; x <= width; x += 1) {
    const from = (LOW_HZ * (HIGH_HZ / LOW_HZ) ** (x / width)) / bin,
      to = (LOW_HZ * (HIGH_HZ / LOW_HZ) ** ((x + 1) / width)) / bin
    let most = -200
    for (let i = Math.floor(from); i <= Math.max(Math.floor(from), Math.floor(to)); i += 1)
      most = Math.max(most, levels[i] ?? -200)
    if (x === 0) context.moveTo(x, y(Math.max(FLOOR_DB, most)))
    else context.lineTo(x, y(Math.max(FLOOR_DB, most)))
  }
  context.stroke()
  context.fillStyle = ink.colour('ink')
  let last = -1000
  for (const { hz, db } of peaks(sampleRate).sort((a, b) => a.hz - b.hz)) {
    const x = Math.min(width - 80, xOf(hz, width) + 3)
    if (hz < LOW_HZ || x - last < 84) continue
    last = x
    context.fillText(`${noteName(Math.round(noteOfHz(hz)))} ${hz.toFixed(1)}`, x, Math.max(12, y(db) + 4))
  }
}

/** Peak, mean and offset in words, and the strongest partial. */
export const levelText = (samples: Float32Array, sampleRate: number): string => {
  let peak = 0,
    sum = 0,
    dc = 0
  for (const x of samples) {
    peak = Math.max(peak, Math.abs(x))
    sum += x * x
    dc += x
  }
  const db = (value: number): string =>
    (value < 1e-5 ? 'silent' : `${(20 * Math.log10(value)).toFixed(1).replace('-', '−')} dB`).padStart(10)
  const [loudest] = peaks(sampleRate)
  return `peak  ${db(peak)}\nmean  ${db(Math.sqrt(sum / samples.length))}\noffset${(dc / samples.length).toFixed(3).replace('-', '−').padStart(10)}\n${loudest && peak > 1e-5 ? `${noteName(Math.round(noteOfHz(loudest.hz)))} ${loudest.hz.toFixed(1)} Hz` : ''}`
}
