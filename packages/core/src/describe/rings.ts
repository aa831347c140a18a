/** How much memory a delay needs: what the patch can reach, no more. */
import type { MemoryContext } from './types.ts'

/** What a ring keeps free: one block and the reach of the interpolation. */
const SLACK = 136
/** Room that a delay has at least, so that small changes of its time find it there. */
const LEAST_FRAMES = 4096
/** Lowest pitch whose period a delay with the unit `pitch` keeps: below note 0. */
const LOWEST_HERTZ = 8

export const nextPowerOfTwo = (x: number): number => {
  let n = 256
  while (n < x) n *= 2
  return n
}

/**
 * Frames of ring, a power of two, for a delay set by `unit` (ms, samples, pitch) and `time`, moved by `further` frames at
 * most, never beyond `allowed` seconds. Twice what is asked for now, so that it can be dragged a while before it needs
 * more.
 */
export const ringFrames = (context: MemoryContext, allowed: number, further = 0): number => {
  const { sampleRate } = context
  const unit = context.choice('unit')
  const asked =
    unit === 'pitch'
      ? sampleRate / LOWEST_HERTZ
      : context.most('time') * (unit === 'samples' ? 1 : sampleRate / 1000)
  const wanted = Math.min(allowed * sampleRate, Math.max(LEAST_FRAMES, 2 * (asked + further)))
  return nextPowerOfTwo(Math.ceil(wanted) + SLACK)
}

/** Bytes of a ring of vectors that is read exactly `frames` frames back. */
export const ringBytes = (frames: number): number => 16 * nextPowerOfTwo(Math.ceil(frames) + SLACK)
