import { sameShape, type StepKind } from '../step.ts'
import { piecesOf, turned } from '../tape.ts'

/** Takes the mean of every channel off. */
export const dc: StepKind = {
  kind: 'dc',
  faults: () => [],
  out: sameShape,
  work: (_step, { frames }) => frames,
  run: async function* run(_step, tape) {
    const sums = new Float64Array(tape.channels)
    let read = 0
    for await (const piece of piecesOf(tape)) {
      piece.forEach((channel, n) => {
        for (const x of channel) sums[n]! += x
      })
      read += piece[0]?.length ?? 0
      yield read
    }
    const means = sums.map((sum) => sum / Math.max(1, tape.frames))
    return turned(tape, (channels, from) => {
      channels.forEach((channel, n) => {
        const last = Math.min(channel.length, tape.frames - from)
        for (let i = Math.max(0, -from); i < last; i += 1) channel[i]! -= means[n]!
      })
    })
  },
}
