/** Pictures of recordings: how loud they are over their time, and which part of them plays. */
import type { Picture, RecordingShape } from '../describe/types.ts'

/** A place of a recording that is marked, as a share of its length. */
export type Mark = readonly [at: number, word: string]

/** As it is drawn, with a line where `head` is within it; where the recording is not there, the places alone. */
export const waveform = (
  shape: RecordingShape | undefined,
  title: string,
  marks: readonly Mark[],
  head = -1,
): Picture => {
  const peaks = shape?.peaks ?? [],
    most = Math.max(1e-3, ...peaks),
    isThere = head >= 0 && head <= 1
  return {
    kind: 'line',
    title: shape ? `${title}, ${shape.seconds.toFixed(2)} s` : `${title}: no recording is here`,
    across: 'time',
    up: 'level',
    curves: [
      {
        points:
          peaks.length > 1
            ? peaks.map((peak, n) => [n / (peaks.length - 1), (0.96 * peak) / most] as const)
            : [
                [0, 0.02],
                [1, 0.02],
              ],
      },
      // A step up where the part that plays begins, and down where it ends.
      ...[...marks.map(([at]) => at), ...(isThere ? [head] : [])].map((at) => ({
        points: [
          [at, 0],
          [at, 1],
        ] as const,
      })),
    ],
    marks,
    ...(isThere ? { dots: [[head, 0.5]] as const } : {}),
  }
}
