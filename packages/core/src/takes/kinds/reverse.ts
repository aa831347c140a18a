import { atOnce, sameShape, type StepKind } from '../step.ts'

export const reverse: StepKind = {
  kind: 'reverse',
  faults: () => [],
  out: sameShape,
  goes: (_step, { frames }, frame) => frames - frame,
  ...atOnce((_step, tape) => ({
    ...tape,
    read: async (from, to) =>
      (await tape.read(tape.frames - to, tape.frames - from)).map((channel) => channel.slice().reverse()),
  })),
}
