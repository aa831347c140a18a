import { atOnce, boundFaults, numberOf, type StepKind } from '../step.ts'
import { bounded } from '../tape.ts'

/** Frames `from` to `to` of what comes in. */
export const cut: StepKind = {
  kind: 'cut',
  faults: (step, { frames }) => {
    const bounds = [
      ...boundFaults(step, 'from', 0, frames, { whole: true }),
      ...boundFaults(step, 'to', 0, frames, { whole: true }),
    ]
    if (bounds.length > 0) return bounds
    const from = numberOf(step, 'from', 0),
      to = numberOf(step, 'to', frames)
    return to > from ? [] : [['to', `${to} is not behind the beginning at ${from}`]]
  },
  out: (step, shape) => ({
    ...shape,
    frames: numberOf(step, 'to', shape.frames) - numberOf(step, 'from', 0),
  }),
  goes: (step, { frames }, frame) => {
    const from = numberOf(step, 'from', 0)
    return frame >= from && frame <= numberOf(step, 'to', frames) ? frame - from : undefined
  },
  ...atOnce((step, tape) => {
    const start = numberOf(step, 'from', 0),
      frames = numberOf(step, 'to', tape.frames) - start
    return {
      ...tape,
      frames,
      // Nothing of what was cut off is heard beyond the ends.
      read: (from, to) => bounded(frames, from, to, (first, last) => tape.read(start + first, start + last)),
    }
  }),
}
