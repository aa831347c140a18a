import { factorTo, MEASURES, type Measure } from '../levels.ts'
import { boundFaults, numberOf, sameShape, type StepKind, wordFaults } from '../step.ts'
import { scaled } from '../tape.ts'

/** Brings a peak, a true peak or the loudness to a level. Silence stays silence. */
export const normalise: StepKind = {
  kind: 'normalise',
  faults: (step) => [
    ...boundFaults(step, 'to', -70, 0, { unit: ' dB' }),
    ...wordFaults(step, 'measure', MEASURES),
  ],
  out: sameShape,
  work: (_step, { frames }) => frames,
  run: async function* run(step, tape) {
    const factor = yield* factorTo(
      tape,
      (step['measure'] as Measure | undefined) ?? 'peak',
      numberOf(step, 'to', -1),
    )
    return scaled(tape, factor)
  },
}
