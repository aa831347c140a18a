import { exactCurve } from '../../describe/points.ts'
import { atOnce, boundFaults, numberOf, sameShape, type StepKind } from '../step.ts'
import { turned } from '../tape.ts'

/** Frames over which it comes in and goes out, along a curve: 0 a straight line, 1 soon there, −1 late. */
export const fade: StepKind = {
  kind: 'fade',
  faults: (step, { frames }) => [
    ...boundFaults(step, 'in', 0, frames, { whole: true }),
    ...boundFaults(step, 'out', 0, frames, { whole: true }),
    ...boundFaults(step, 'curve', -1, 1),
  ],
  out: sameShape,
  ...atOnce((step, tape) => {
    const rise = numberOf(step, 'in', 0),
      fall = numberOf(step, 'out', 0),
      curve = numberOf(step, 'curve', 0)
    const gainAt = (n: number): number => {
      const up = n < rise ? exactCurve(n / rise, curve) : 1,
        left = tape.frames - 1 - n
      return left < fall ? up * exactCurve(Math.max(0, left) / fall, curve) : up
    }
    return turned(tape, (channels, from) => {
      const count = channels[0]?.length ?? 0
      for (let i = 0; i < count; i += 1) {
        const n = from + i
        if (n < 0 || (n >= rise && n < tape.frames - fall)) continue
        const gain = gainAt(n)
        for (const channel of channels) channel[i]! *= gain
      }
    })
  }),
}
