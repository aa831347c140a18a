/** Tables of waves as hands change them: frames of one cycle each, drawn, made of partials, put in order. All of it pure. */
import { exactTransform } from '../units/fourier.ts'

/** Samples of a frame. */
export const FRAME_SIZE = 2048
export const MOST_FRAMES = 256
/** Partials that are drawn as bars. */
export const DRAWN_PARTIALS = 64
const HALF = FRAME_SIZE / 2

/** One cycle, `FRAME_SIZE` samples within ±1. */
export type Frame = Float32Array
export type Frames = readonly Frame[]

const within = (x: number, low: number, high: number): number => Math.min(high, Math.max(low, x))

/** A cycle of any length as a frame, straight between its samples. */
export const frameOf = (cycle: Float32Array): Frame =>
  Float32Array.from({ length: FRAME_SIZE }, (_, i) => {
    const at = (i * cycle.length) / FRAME_SIZE,
      low = Math.floor(at),
      here = cycle[low] ?? 0
    return here + (at - low) * ((cycle[(low + 1) % cycle.length] ?? 0) - here)
  })

/** A recording cut into frames of `size` samples, as many as a table has at the most. */
export const framesOf = (samples: Float32Array, size: number): Frames => {
  const count = Math.max(1, Math.min(MOST_FRAMES, Math.floor(samples.length / size)))
  return Array.from({ length: count }, (_, n) => frameOf(samples.subarray(n * size, (n + 1) * size)))
}

/** All frames behind one another, as a file holds them. */
export const samplesOf = (frames: Frames): Float32Array => {
  const samples = new Float32Array(frames.length * FRAME_SIZE)
  frames.forEach((frame, n) => {
    samples.set(frame, n * FRAME_SIZE)
  })
  return samples
}

interface Spectrum {
  readonly re: Float64Array
  readonly im: Float64Array
}

const spectrumOf = (frame: Frame): Spectrum => {
  const re = Float64Array.from(frame),
    im = new Float64Array(FRAME_SIZE)
  exactTransform(re, im, -1)
  return { re, im }
}

/** Amplitudes of partials 1, 2, … of a frame. */
export const partialsOf = (frame: Frame, count = DRAWN_PARTIALS): readonly number[] => {
  const { re, im } = spectrumOf(frame)
  return Array.from({ length: count }, (_, n) => Math.hypot(re[n + 1]!, im[n + 1]!) / HALF)
}

/** Brought to a highest point of 1; silence stays. */
export const normalised = (frame: Frame): Frame => {
  const most = frame.reduce((high, x) => Math.max(high, Math.abs(x)), 0)
  return most > 1e-9 ? frame.map((x) => x / most) : frame
}

/**
 * The same wave with one partial at another amplitude, in the phase it had (a sine where it had none). The whole is
 * brought to within ±1 where it would go beyond.
 */
export const withPartial = (frame: Frame, partial: number, amplitude: number): Frame => {
  const { re, im } = spectrumOf(frame)
  const before = Math.hypot(re[partial]!, im[partial]!) / HALF
  const scale = before > 1e-9 ? amplitude / before : 0
  const real = before > 1e-9 ? (re[partial]! * (scale - 1)) / HALF : 0,
    imaginary = before > 1e-9 ? (im[partial]! * (scale - 1)) / HALF : -amplitude
  const next = frame.map((x, i) => {
    const angle = (2 * Math.PI * partial * i) / FRAME_SIZE
    return x + real * Math.cos(angle) - imaginary * Math.sin(angle)
  })
  return next.some((x) => Math.abs(x) > 1) ? normalised(next) : next
}

/** A wave of sines with these amplitudes, brought to a highest point of 1. */
export const waveOfPartials = (amplitudes: readonly number[]): Frame =>
  normalised(
    Float32Array.from({ length: FRAME_SIZE }, (_, i) =>
      amplitudes.reduce(
        (sum, amplitude, n) => sum + amplitude * Math.sin((2 * Math.PI * (n + 1) * i) / FRAME_SIZE),
        0,
      ),
    ),
  )

/** Drawn over from one place to another: across 0…1, height −1…1. */
export const drawnOver = (
  frame: Frame,
  from: readonly [x: number, y: number],
  to: readonly [x: number, y: number],
): Frame => {
  const next = frame.slice(),
    [left, right] = from[0] <= to[0] ? [from, to] : [to, from]
  const first = within(Math.floor(left[0] * FRAME_SIZE), 0, FRAME_SIZE - 1),
    last = within(Math.floor(right[0] * FRAME_SIZE), 0, FRAME_SIZE - 1)
  for (let i = first; i <= last; i += 1) {
    const share = last > first ? (i - first) / (last - first) : 1
    next[i] = within(left[1] + share * (right[1] - left[1]), -1, 1)
  }
  return next
}

/** Where the energy of a frame's partials lies, counted in partials. */
export const brightnessOf = (frame: Frame): number => {
  const partials = partialsOf(frame, 256)
  let energy = 0,
    sum = 0
  partials.forEach((amplitude, n) => {
    energy += amplitude ** 2
    sum += (n + 1) * amplitude ** 2
  })
  return energy > 0 ? sum / energy : 0
}

/** The dark ones first. */
export const sortedFrames = (frames: Frames): Frames =>
  frames
    .map((frame) => ({ frame, brightness: brightnessOf(frame) }))
    .sort((a, b) => a.brightness - b.brightness)
    .map(({ frame }) => frame)

/** Partials between two frames: amplitudes on their way, phases by the shorter turn. */
const between = (a: Spectrum, b: Spectrum, share: number): Frame => {
  const re = new Float64Array(FRAME_SIZE),
    im = new Float64Array(FRAME_SIZE)
  for (let k = 1; k < HALF; k += 1) {
    const sizes = [Math.hypot(a.re[k]!, a.im[k]!), Math.hypot(b.re[k]!, b.im[k]!)] as const
    const size = sizes[0] + share * (sizes[1] - sizes[0])
    // What one of them does not have keeps the other's phase.
    const [from, to] = [
      sizes[0] > 1e-9 ? Math.atan2(a.im[k]!, a.re[k]!) : Math.atan2(b.im[k]!, b.re[k]!),
      sizes[1] > 1e-9 ? Math.atan2(b.im[k]!, b.re[k]!) : Math.atan2(a.im[k]!, a.re[k]!),
    ]
    const turn = (to - from) / (2 * Math.PI),
      phase = from + 2 * Math.PI * share * (turn - Math.round(turn))
    re[k] = size * Math.cos(phase)
    im[k] = size * Math.sin(phase)
    re[FRAME_SIZE - k] = re[k]!
    im[FRAME_SIZE - k] = -im[k]!
  }
  exactTransform(re, im, 1)
  return Float32Array.from(re, (x) => within(x / FRAME_SIZE, -1, 1))
}

/** The frames from one to another, each partial on a straight way between the two ends. */
export const smoothedFrames = (frames: Frames, from: number, to: number): Frames => {
  const [first, last] = from <= to ? [from, to] : [to, from]
  if (last - first < 2 || !frames[first] || !frames[last]) return frames
  const a = spectrumOf(frames[first]),
    b = spectrumOf(frames[last])
  return frames.map((frame, n) =>
    n <= first || n >= last ? frame : between(a, b, (n - first) / (last - first)),
  )
}

/** As many frames as wanted: the ends stay, what lies between is where it was, smoothly. */
export const stretchedFrames = (frames: Frames, count: number): Frames => {
  const wanted = Math.round(within(count, 1, MOST_FRAMES))
  if (wanted === frames.length) return frames
  if (frames.length === 1) return Array.from({ length: wanted }, () => frames[0]!.slice())
  const spectra = new Map<number, Spectrum>()
  const spectrum = (n: number): Spectrum => {
    let known = spectra.get(n)
    if (!known) spectra.set(n, (known = spectrumOf(frames[n]!)))
    return known
  }
  return Array.from({ length: wanted }, (_, n) => {
    const at = wanted === 1 ? 0 : (n * (frames.length - 1)) / (wanted - 1),
      low = Math.min(frames.length - 1, Math.floor(at + 1e-9)),
      share = at - low
    return share < 1e-6 || low === frames.length - 1
      ? frames[low]!
      : between(spectrum(low), spectrum(low + 1), share)
  })
}
