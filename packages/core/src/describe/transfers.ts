/** Transfer curves as lists of heights, evenly from −1 to 1: drawn, resampled, made from shapes. All of it pure. */

export type Heights = readonly number[]
/** As many as are drawn by hand; a list may hold more. */
export const DRAWN_HEIGHTS = 257
export const MOST_HEIGHTS = 2048
/** As far as a curve goes up and down. */
const HIGHEST = 4

const within = (x: number, low: number, high: number): number => Math.min(high, Math.max(low, x))
const rounded = (x: number): number => Math.round(x * 1e4) / 1e4 || 0

/** Height at a place −1…1, straight between the values; the straight line where there are none. */
export const heightAt = (list: Heights, x: number): number => {
  if (list.length === 0) return x
  const place = within((x + 1) / 2, 0, 1) * (list.length - 1),
    low = Math.floor(place)
  return list[low]! + (place - low) * ((list[low + 1] ?? list[low]!) - list[low]!)
}

/** The same curve by another number of values. */
export const resampled = (list: Heights, count: number): Heights => {
  const wanted = Math.round(within(count, 2, MOST_HEIGHTS))
  return wanted === list.length
    ? list
    : Array.from({ length: wanted }, (_, n) => rounded(heightAt(list, (2 * n) / (wanted - 1) - 1)))
}

/** A height on a grid of so many lines between −1 and 1; 0: none. */
export const snappedHeight = (height: number, lines: number): number =>
  lines > 0 ? rounded((Math.round(((height + 1) / 2) * lines) / lines) * 2 - 1) : rounded(height)

/** Drawn over from one place to another, both −1…1 across. */
export const drawnHeights = (
  list: Heights,
  from: readonly [x: number, y: number],
  to: readonly [x: number, y: number],
  lines = 0,
): Heights => {
  const [left, right] = from[0] <= to[0] ? [from, to] : [to, from],
    last = list.length - 1
  const at = (x: number): number => Math.round(within((x + 1) / 2, 0, 1) * last)
  const [first, end] = [at(left[0]), at(right[0])]
  return list.map((height, n) => {
    if (n < first || n > end) return height
    const share = end > first ? (n - first) / (end - first) : 1
    return within(snappedHeight(left[1] + share * (right[1] - left[1]), lines), -HIGHEST, HIGHEST)
  })
}

const chebyshev = (n: number, x: number): number => Math.cos(n * Math.acos(within(x, -1, 1)))

/** Curves to begin from. */
export const TRANSFERS: ReadonlyMap<string, (x: number) => number> = new Map<string, (x: number) => number>([
  ['straight', (x) => x],
  ['soft', (x) => Math.tanh(2 * x) / Math.tanh(2)],
  ['hard', (x) => within(2 * x, -1, 1)],
  ['one side', (x) => Math.max(0, x)],
  ['both sides up', (x) => Math.abs(x)],
  ['fold', (x) => Math.sin(1.5 * Math.PI * x)],
  ['stairs of 5', (x) => Math.round(2 * x) / 2],
  ['stairs of 9', (x) => Math.round(4 * x) / 4],
  ['dead middle', (x) => Math.sign(x) * Math.max(0, (Math.abs(x) - 0.25) / 0.75)],
  ['second harmonic', (x) => chebyshev(2, x)],
  ['third harmonic', (x) => chebyshev(3, x)],
  ['fifth harmonic', (x) => chebyshev(5, x)],
])

export const transferOf = (shape: string, count = DRAWN_HEIGHTS): Heights => {
  const height = TRANSFERS.get(shape) ?? ((x: number) => x)
  return Array.from({ length: count }, (_, n) => rounded(height((2 * n) / (count - 1) - 1)))
}

/** Upside down, or left and right exchanged. */
export const turnedOver = (list: Heights): Heights => list.map((y) => rounded(-y))
export const mirroredHeights = (list: Heights): Heights => [...list].reverse()
