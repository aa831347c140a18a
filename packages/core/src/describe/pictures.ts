/** Curves for pictures of modules. They never reach audio, so plain Math will do. */
type Point = readonly [x: number, y: number]

export const STEPS = 96

/** y at evenly spaced x within 0…1. */
export const sampled = (y: (x: number) => number, steps = STEPS): Point[] =>
  Array.from({ length: steps + 1 }, (_, i) => [i / steps, Math.min(1, Math.max(0, y(i / steps)))] as const)

/** The curve of the contract: f(x) = (1 − e^(−kx)) / (1 − e^(−k)), k = 6·curve. */
export const curved = (x: number, curve: number): number => {
  const k = 6 * curve
  return Math.abs(k) < 1e-6 ? x : (1 - Math.exp(-k * x)) / (1 - Math.exp(-k))
}

export const curvePoints = (curve: number): Point[] => sampled((x) => curved(x, curve))

/** Bars standing side by side, heights 0…1: x is the middle of each. */
export const barPoints = (heights: readonly number[]): Point[] =>
  heights.map((height, index) => [(index + 0.5) / heights.length, Math.min(1, Math.max(0, height))] as const)

/** A response in dB over a logarithmic axis from 20 Hz to 20 kHz, −48…+24 dB on the picture. */
export const response = (db: (hz: number) => number): Point[] =>
  sampled((x) => (db(20 * 1000 ** x) + 48) / 72)

/** Where hertz and decibels stand in a picture of a response, and back. */
export const responseX = (hz: number): number => Math.log10(hz / 20) / 3
export const hertzAt = (x: number): number => 20 * 1000 ** x
export const responseY = (db: number): number => Math.min(1, Math.max(0, (db + 48) / 72))
export const decibelsAt = (y: number): number => 72 * y - 48

export const RESPONSE_MARKS: readonly (readonly [number, string])[] = [
  [Math.log10(5) / 3, '100 Hz'],
  [Math.log10(50) / 3, '1 kHz'],
  [Math.log10(500) / 3, '10 kHz'],
]

/** Functions for pictures alone: their last digit differs between machines, so nothing that is heard may use them. */
export const drawn = {
  sin: Math.sin,
  cos: Math.cos,
  exp: Math.exp,
  log: Math.log,
  log2: Math.log2,
  log10: Math.log10,
  tan: Math.tan,
  atan: Math.atan,
  hypot: Math.hypot,
}
