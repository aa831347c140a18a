import { gainOfDb } from '../levels.ts'
import { atOnce, boundFaults, numberOf, sameShape, type StepKind } from '../step.ts'
import { scaled } from '../tape.ts'

export const gain: StepKind = {
  kind: 'gain',
  faults: (step) => boundFaults(step, 'db', -120, 60, { unit: ' dB' }),
  out: sameShape,
  ...atOnce((step, tape) => scaled(tape, gainOfDb(numberOf(step, 'db', 0)))),
}
