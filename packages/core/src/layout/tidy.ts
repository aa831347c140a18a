/** Tidy: new places for cards, laid out to the shape of the window. The same patch and window give the same places. */
import { cableShare, type Columns, columnsOf } from './columns.ts'
import { COLUMN_GAP, GAP, type Line, LINE_GAP, NEAR, type Room } from './lines.ts'
import { Heights } from './heights.ts'
import type { Kernel, Layers } from './layers.ts'
import type { Place } from './free.ts'
import { GRID, LANE, snap } from './grid.ts'
import type { Sketch } from './sketch.ts'

export type { Kernel, Room }

/** Columns a line may have at most, and how many more than the chain is long. */
const MOST_COLUMNS = 16,
  MORE_COLUMNS = 2
/** How much is done to find better places. */
export interface Effort {
  /** Steps of looking for columns, for each width of a line. */
  readonly work: number
  /** So many of the best columns are laid out whole. */
  readonly laid: number
  /** Rounds of trading places of neighbours. */
  readonly trades: number
}
const THOROUGH: Effort = { work: 1.5e6, laid: 5, trades: 4 }
/** For a patch that is just opened: more for one of a size that may be seen whole. */
export const quickEffort = (modules: number): Effort =>
  modules <= MOST_WHOLE ? { work: 4e5, laid: 3, trades: 0 } : { work: 6e4, laid: 1, trades: 0 }
const MOST_WHOLE = 64
/** What stays free beside cards. */
const STUBS = 24
const MOST_GAP = 120,
  DENSE_GAP = 72
/** Patches of up to so many cards are laid out closely where that shows all their rows. */
const MOST_NEAR = 12
/** Share of its height that a line may have in addition where the window leaves it. */
const MOST_SLACK = 0.3

interface Laid {
  readonly zoom: number
  readonly places: readonly Place[]
  readonly cost: number
}

/** Up to the grid. */
export const up = (value: number): number => Math.ceil(value / GRID) * GRID

/** Where every node stands: its line, and its column from the left. */
interface Spot {
  readonly line: number
  readonly column: number
}

const spotsOf = ({ column, lines }: Columns): Spot[] =>
  column.map((at) => {
    const line = lines.findIndex(({ begin, end }) => at >= begin && at < end),
      { begin, offset } = lines[line]!
    return { line, column: at - begin + offset }
  })

/** Room before each column: for tags of amounts, and for trunks beside one another. */
const gapsOf = ({ links }: Sketch, spots: readonly Spot[], columns: number, mostGap: number): number[] => {
  const trunks = Array.from({ length: columns + 1 }, () => new Map<number, Set<string>>()),
    tags = new Array<number>(columns + 1).fill(0)
  for (const { from, to, fromY, tag } of links) {
    const source = spots[from]!,
      target = spots[to]!
    tags[target.column] = Math.max(tags[target.column]!, tag)
    const there = trunks[source.column + 1]!,
      name = `${from} ${fromY}`,
      names = there.get(source.line)
    if (names) names.add(name)
    else there.set(source.line, new Set([name]))
  }
  return Array.from({ length: columns }, (_, column) => {
    if (column === 0) return 0
    const lanes = LANE * [...trunks[column]!.values()].reduce((most, names) => Math.max(most, names.size), 0)
    return up(Math.min(mostGap, Math.max(COLUMN_GAP, STUBS + lanes, STUBS + tags[column]! + 2 * LANE)))
  })
}

/** Lefts of all columns, and the right of the last. */
const acrossOf = (
  sketch: Sketch,
  spots: readonly Spot[],
  mostGap: number,
): { readonly xs: number[]; readonly right: number } => {
  const columns = spots.reduce((most, { column }) => Math.max(most, column + 1), 0),
    widths = new Array<number>(columns).fill(0)
  spots.forEach(({ column }, node) => {
    widths[column] = Math.max(widths[column]!, sketch.nodes[node]!.width)
  })
  const xs: number[] = []
  let right = 0
  gapsOf(sketch, spots, columns, mostGap).forEach((gap, column) => {
    xs.push(right + gap)
    right += gap + up(widths[column]!)
  })
  return { xs, right }
}

/** Room of the columns of a line: down to the next line that stands under them, or as far as the others reach. */
const roomsOf = (lines: readonly Line[], number: number, reach: number): number[] => {
  const { begin, end, offset, top } = lines[number]!
  return Array.from({ length: end - begin }, (_, at) => {
    const below = lines.find(
      (line, other) =>
        other > number && line.offset <= offset + at && line.offset + line.end - line.begin > offset + at,
    )
    return (below ? below.top - LINE_GAP : reach) - top
  })
}

const laidOut = (
  sketch: Sketch,
  layers: Layers,
  columns: Columns,
  room: Room,
  { trades, mostGap }: { readonly trades: number; readonly mostGap: number },
): Laid => {
  const spots = spotsOf(columns),
    { xs, right } = acrossOf(sketch, spots, mostGap)
  const least = columns.lines.reduce((most, { top, height }) => Math.max(most, top + height), 0)
  const zoom = Math.min(1, room.width / right, room.height / least)
  // What the window leaves free is given to the lines.
  const slack = Math.min(MOST_SLACK, Math.max(0, room.height / zoom / least - 1)),
    lines = columns.lines.map((line) => ({ ...line, top: up(line.top * (1 + slack)) })),
    reach = least * (1 + slack)
  const places = sketch.nodes.map(() => ({ x: 0, y: 0 }))
  let cost = columns.cost
  lines.forEach((line, number) => {
    const table = Array.from({ length: line.end - line.begin }, (): number[] => [])
    spots.forEach((spot, node) => {
      if (spot.line === number) table[spot.column - line.offset]!.push(node)
    })
    const heights = new Heights(
      sketch,
      { columns: table, rooms: roomsOf(lines, number, reach) },
      layers.order,
    )
    cost += cableShare(sketch) * heights.run(trades)
    for (const nodes of table) {
      let free = line.top
      for (const node of nodes) {
        const y = Math.max(snap(line.top + heights.y[node]!), up(free))
        places[node] = { x: xs[spots[node]!.column]!, y }
        free = y + sketch.nodes[node]!.height + GAP / 2
      }
    }
  })
  return { places, cost, zoom }
}

/** A small patch laid out so closely that all its rows are seen; none where it does not come out so large. */
const denseLayout = (
  sketch: Sketch,
  layers: Layers,
  room: Room,
  widths: readonly number[],
): Laid | undefined =>
  widths
    .map((most) => {
      const columns = columnsOf(sketch, layers, room, most, { work: THOROUGH.work, isDense: true })
      return laidOut(sketch, layers, columns, room, { trades: THOROUGH.trades, mostGap: DENSE_GAP })
    })
    .filter(({ zoom }) => zoom >= NEAR)
    .sort((a, b) => a.cost - b.cost)[0]

/** Places for the cards of a sketch in a window; the first one stands at the origin. */
export const tidyPlaces = (
  sketch: Sketch,
  layers: Layers,
  room: Room,
  { work, laid, trades }: Effort = THOROUGH,
): readonly Place[] => {
  const chain = layers.layer.reduce((most, layer) => Math.max(most, layer + 1), 0),
    // What is not connected is laid out in a square.
    longest = Math.max(chain, Math.ceil(Math.sqrt(sketch.nodes.length))) + MORE_COLUMNS
  const widths = Array.from({ length: Math.min(MOST_COLUMNS, longest) }, (_, at) => at + 1)
  const found = widths
    .map((most) => columnsOf(sketch, layers, room, most, { work }))
    .sort((a, b) => a.cost - b.cost)
    .slice(0, laid)
  let best: Laid | undefined
  for (const columns of found) {
    const next = laidOut(sketch, layers, columns, room, { trades, mostGap: MOST_GAP })
    if (!best || next.cost < best.cost) best = next
  }
  const isDense = best !== undefined && best.zoom < NEAR && sketch.nodes.length <= MOST_NEAR
  return (isDense ? denseLayout(sketch, layers, room, widths)?.places : undefined) ?? best?.places ?? []
}
