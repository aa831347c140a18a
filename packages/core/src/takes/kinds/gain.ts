import { gainOfDb } from '../levels.ts'
import { atOnce, boundFaults, numberOf, sameShape, type StepKind } from '../step.ts'
import { turned } from '../tape.ts'

export const gain: StepKind = {
  kind: 'gain',
  faults: (step) => boundFaults(step, 'db', -120, 60, { unit: ' dB' }),
  out: sameShape,
  ...atOnce((step, tape) => {
    const factor = gainOfDb(numberOf(step, 'db', 0))
    return turned(tape, (channels) => {
      for (const channel of channels) for (let i = 0; i < channel.length; i += 1) channel[i]! *= factor
    })
  }),
}
