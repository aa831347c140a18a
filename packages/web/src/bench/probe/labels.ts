/** Where words of marks stand: in rows above the picture, so that none lies on a curve, on another, or on a leader. */

export interface LabelWish {
  /** Where on the picture it points to. */
  readonly x: number
  readonly width: number
}

export interface LabelPlace {
  /** 0 is the row next to the picture. */
  readonly row: number
  readonly left: number
}

interface Room {
  readonly width: number
  readonly rows: number
  /** Room that is taken already, in the lowest row and all others. */
  readonly taken?: readonly (readonly [left: number, right: number])[]
}

const GAP = 10
/** How far a label may stand beside what it points to. */
const FURTHEST = 46

type Span = readonly [left: number, right: number]
const meets = ([a, b]: Span, [c, d]: Span): boolean => a < d + GAP && c < b + GAP

/** Lefts a label may have in a row, the nearest to its place first. */
const leftsFor = ({ x, width }: LabelWish, row: readonly Span[], room: number): number[] => {
  const cut = (left: number): number => Math.min(room - width, Math.max(0, left))
  const middle = cut(x - width / 2)
  return [middle, ...row.flatMap(([left, right]) => [left - GAP - width, right + GAP])]
    .filter((left) => left >= 0 && left + width <= room && Math.abs(left - middle) <= FURTHEST)
    .sort((a, b) => Math.abs(a - middle) - Math.abs(b - middle))
}

/**
 * Places of labels, the most important first; those for which there is no room have none. A label of an upper row is led
 * down at its own place: nothing stands there in the rows below.
 */
export const placeLabels = (
  wishes: readonly LabelWish[],
  { width, rows, taken = [] }: Room,
): readonly (LabelPlace | undefined)[] => {
  const placed: Span[][] = Array.from({ length: rows }, () => [...taken])
  /** Leaders that go down through a row. */
  const led: number[][] = Array.from({ length: rows }, () => [])
  return wishes.map((wish) => {
    for (let row = 0; row < rows; row += 1) {
      // Its leader passes all rows below it.
      const isBlocked = placed
        .slice(0, row)
        .some((spans) => spans.some((span) => meets(span, [wish.x, wish.x])))
      if (isBlocked) break
      const left = leftsFor(wish, placed[row]!, width).find((at) => {
        const span: Span = [at, at + wish.width]
        return (
          !placed[row]!.some((other) => meets(other, span)) && !led[row]!.some((x) => meets([x, x], span))
        )
      })
      if (left === undefined) continue
      placed[row]!.push([left, left + wish.width])
      for (let below = 0; below < row; below += 1) led[below]!.push(wish.x)
      return { row, left }
    }
    return undefined
  })
}
