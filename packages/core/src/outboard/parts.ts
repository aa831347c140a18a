/** What the simulated devices are made of. Only + − × ÷ √: they sound the same on every machine. */
import { exactExp, exactSine } from '../units/exact.ts'

/** Share of the way that a low-pass of one pole goes with each frame. */
export const onePole = (hertz: number, sampleRate: number): number =>
  1 - exactExp((-2 * Math.PI * Math.min(hertz, 0.45 * sampleRate)) / sampleRate)

/** Noise of a clock: the same at the same frame, −1…1. */
export const noiseAt = (clock: number): number => {
  let h = (Math.imul(clock, 0x9e3779b1) ^ 0x5bd1e995) >>> 0
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d)
  h = Math.imul(h ^ (h >>> 12), 0x297a2d39)
  return ((h ^ (h >>> 15)) >>> 0) / 2147483648 - 1
}

/** Frames between points of a slow wave; straight lines between them. */
const WAVE_FRAMES = 16
/** A slow sine that depends on the clock alone. */
export class SlowWave {
  private from = 0
  private to = 0
  private at = -1
  constructor(
    private readonly hertz: number,
    private readonly sampleRate: number,
    private readonly phase = 0,
  ) {}

  value(clock: number): number {
    const n = Math.floor(clock / WAVE_FRAMES)
    if (n !== this.at) {
      this.from = this.pointAt(n)
      this.to = this.pointAt(n + 1)
      this.at = n
    }
    return this.from + ((this.to - this.from) * (clock - n * WAVE_FRAMES)) / WAVE_FRAMES
  }
  private pointAt(n: number): number {
    const cycles = (this.hertz * n * WAVE_FRAMES) / this.sampleRate + this.phase
    return exactSine(cycles - Math.floor(cycles))
  }
}

/** A line of samples that can be read anywhere in it. */
export class Line {
  private readonly ring: Float32Array
  private readonly mask: number
  private now = 0
  constructor(frames: number) {
    let size = 64
    while (size < frames + 8) size *= 2
    this.ring = new Float32Array(size)
    this.mask = size - 1
  }
  get frames(): number {
    return this.ring.length
  }
  push(x: number): void {
    this.now = (this.now + 1) & this.mask
    this.ring[this.now] = x
  }
  /** The sample so many frames before the last pushed one: four points, third order (Catmull & Rom 1974). */
  read(delay: number): number {
    const { ring, mask, now } = this
    const d = Math.max(1, delay),
      whole = Math.floor(d),
      f = d - whole,
      at = now - whole
    const a = ring[(at + 1) & mask]!,
      b = ring[at & mask]!,
      c = ring[(at - 1) & mask]!,
      e = ring[(at - 2) & mask]!
    const slope = 0.5 * (c - a)
    return ((0.5 * (e - a) + 1.5 * (b - c)) * f + (a - 2.5 * b + 2 * c - 0.5 * e)) * f * f + slope * f + b
  }
  clear(): void {
    this.ring.fill(0)
  }
}

/** Bends what is above half; never beyond ±1. */
export const bent = (x: number): number => {
  const y = Math.max(-3, Math.min(3, x))
  return (y * (27 + y * y)) / (27 + 9 * y * y)
}

/** Softer than this for as long as everything in it takes to go round, and it is silent. */
export const AUDIBLE = 1e-6
