/** What choruses, flangers and phasers have in common: a slow wave that moves them. */
import { choice, frequency, NOTE_VALUES, share } from './helpers.ts'
import { drawn } from './pictures.ts'
import type { ParamDescription } from './types.ts'

/** The vectors a sweep keeps; see kernels/sweep.as.ts. */
export const SWEEP_STATE = ['phase', 'phaseLow', 'resetBefore', 'started', 'passed', 'pace'] as const

export const sweepParams: readonly ParamDescription[] = [
  frequency('rate', 0.5, 0.01, 20),
  choice('sync', ['off', ...NOTE_VALUES], 'off', { help: 'One movement to and fro takes so long.' }),
  share('spread', 0.5, 0, 1, { help: 'How far the sides are apart in their movement.' }),
]

/** Frames of ring for a delay that never reaches beyond so many milliseconds. */
export const sweptFrames = (milliseconds: number, sampleRate: number): number => {
  let frames = 256
  while (frames < (milliseconds * sampleRate) / 1000 + 144) frames *= 2
  return frames
}

/** One movement of both sides: the delay or frequency at x cycles, 0…1. */
export const sides = (
  spread: number,
  at: (sine: number) => number,
): { readonly name: string; readonly points: readonly (readonly [number, number])[] }[] =>
  ['left', 'right'].map((name, side) => ({
    name,
    points: Array.from({ length: 97 }, (_, i) => {
      const x = i / 96
      const y = at(drawn.sin(2 * Math.PI * (x + side * 0.3125 * spread)))
      return [x, Math.min(1, Math.max(0, y))] as const
    }),
  }))
