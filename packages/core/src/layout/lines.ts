/** Columns broken into lines, like those of a text, and how large they are shown in a window. */

/** The window, in pixels of the screen. */
export interface Room {
  readonly width: number
  readonly height: number
}
/** Least distance of cards in a column, of columns, and of lines, in chart pixels. */
export const GAP = 24,
  COLUMN_GAP = 64,
  LINE_GAP = 48

/** Larger than this a patch is not shown. */
const MOST_ZOOM = 1
/** What a cut costs while lines are broken, in chart pixels, and what a column costs that it goes back. */
const CUT_PX = 8,
  BACK_PX = 60,
  BACK_COST = 0.15
/** What a patch costs per 1 / zoom. */
const SIZE_COST = 100

/** A run of columns from left to right, as one line of a text. */
export interface Line {
  /** Its columns, in the whole chain. */
  readonly begin: number
  readonly end: number
  /** How many columns from the left it begins. */
  readonly offset: number
  /** Where it begins from above, and how high it is. */
  readonly top: number
  readonly height: number
}
/** What columns take, and how much goes on from one to the next. */
export interface Sizes {
  readonly heights: readonly number[]
  readonly widths: readonly number[]
  /** Weight of the links that go over the left side of each. */
  readonly cuts: readonly number[]
}
/** Where lines of at most so many columns begin: the best breaking, by dynamic programming (Knuth, Plass 1981). */
export const breaksOf = ({ heights, cuts }: Sizes, most: number): number[] => {
  const count = heights.length
  const best = new Float64Array(count + 1),
    begins = new Int32Array(count + 1)
  for (let end = 1; end <= count; end += 1) {
    best[end] = Infinity
    let tallest = 0
    for (let begin = end - 1; begin >= Math.max(0, end - most); begin -= 1) {
      tallest = Math.max(tallest, heights[begin]!)
      const cost: number = best[begin]! + tallest + (begin > 0 ? LINE_GAP + CUT_PX * cuts[begin]! : 0)
      if (cost >= best[end]!) continue
      best[end] = cost
      begins[end] = begin
    }
  }
  const breaks: number[] = []
  for (let end = count; end > 0; end = begins[end]!) breaks.unshift(begins[end]!)
  return breaks
}

/** Lines one under the other, each as far up and as far to the right as it fits under those before it. */
export const stacked = (begins: readonly number[], { heights }: Sizes): Line[] => {
  const ends = begins.map((_, line) => begins[line + 1] ?? heights.length)
  const columns = begins.reduce((most, begin, line) => Math.max(most, ends[line]! - begin), 0),
    bottoms = new Array<number>(columns).fill(0)
  /** Where the line before ends. */
  let before: number | undefined
  return begins.map((begin, line) => {
    const own = heights.slice(begin, ends[line]),
      height = own.reduce((most, at) => Math.max(most, at), 0)
    let offset = 0,
      top = 0,
      least = Infinity
    // The first line begins at the left.
    const last = line === 0 ? 0 : columns - own.length
    for (let at = 0; at <= last; at += 1) {
      const free = bottoms.slice(at, at + own.length).reduce((most, bottom) => Math.max(most, bottom), 0)
      const back = before === undefined ? 0 : before - at
      if (free + BACK_PX * back > least) continue
      least = free + BACK_PX * back
      top = free
      offset = at
    }
    before = offset + own.length
    own.forEach((tall, at) => (bottoms[offset + at] = top + tall + LINE_GAP))
    return { begin, end: ends[line]!, offset, top, height }
  })
}

/** How large lines are shown in a room, and what goes on from one to the next weighs, by how far it has to go back. */
export const measured = (lines: readonly Line[], { widths, cuts }: Sizes, room: Room) => {
  const across: number[] = []
  let height = 0,
    cut = 0
  lines.forEach(({ begin, end, offset, top, height: own }, number) => {
    height = Math.max(height, top + own)
    for (let at = begin; at < end; at += 1)
      across[offset + at - begin] = Math.max(across[offset + at - begin] ?? 0, widths[at]!)
    const before = lines[number - 1]
    if (before) {
      const back = before.offset + before.end - before.begin - offset
      cut += cuts[begin]! * (1 + BACK_COST * back)
    }
  })
  const width = across.reduce((sum, own) => sum + own + COLUMN_GAP, -COLUMN_GAP)
  return { zoom: Math.min(MOST_ZOOM, room.width / width, room.height / height), cut }
}
/** From here on cards show all their rows. */
export const NEAR = 0.9
/** What each distance shows less than the one before it. */
const STEPS_DOWN: readonly (readonly [zoom: number, cost: number])[] = [
  [NEAR, 20],
  [0.55, 10],
  [0.45, 20],
  // Even with panels folded it would not be seen whole.
  [0.345, 40],
]
export const sizeCost = (zoom: number): number =>
  STEPS_DOWN.reduce((cost, [least, more]) => cost + (zoom < least ? more : 0), SIZE_COST / zoom)
