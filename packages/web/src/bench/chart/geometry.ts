/** What a card shows, from top to bottom, and where everything on it stands: the same at every distance. */
import {
  briefRows,
  descriptionOf,
  type InputDescription,
  isSignalParam,
  type OutputDescription,
  type ParamDescription,
  type PatchModule,
  type SignalKind,
} from '@ypsilon/core'
import type { Box, Point } from './routing.ts'

export const CARD_WIDTH = 192
export const HEAD = 27,
  ROW = 27,
  OUT_ROW = 24
const FOOT = 8

export type InRow =
  | { readonly kind: 'input'; readonly port: InputDescription }
  | { readonly kind: 'param'; readonly param: ParamDescription }

/** A port of a card, where it stands from the card's upper left corner. */
export interface PortPlace extends Point {
  readonly name: string
  readonly side: 'in' | 'out'
  readonly kind: SignalKind
  /** Parameters show their port only while a cable ends there. */
  readonly isParam: boolean
}

export interface CardLayout {
  readonly rows: readonly InRow[]
  readonly outputs: readonly OutputDescription[]
  readonly hidden: number
  readonly height: number
  /** Ports of the rows that are shown; a cable to a row that is not ends at the head. */
  readonly ports: ReadonlyMap<string, PortPlace>
}

export const rowName = (row: InRow): string => (row.kind === 'input' ? row.port.name : row.param.name)
/** True where a cable may end on the row. */
export const takesCable = (row: InRow): boolean => row.kind === 'input' || isSignalParam(row.param)

const portsOf = (rows: readonly InRow[], outputs: readonly OutputDescription[]): Map<string, PortPlace> => {
  const ports = new Map<string, PortPlace>()
  rows.forEach((row, index) => {
    if (!takesCable(row)) return
    const name = rowName(row),
      isParam = row.kind === 'param'
    const kind = isParam ? 'control' : row.port.kind
    ports.set(name, { name, side: 'in', kind, isParam, x: 0, y: HEAD + index * ROW + 13 })
  })
  outputs.forEach(({ name, kind }, index) => {
    const y = HEAD + rows.length * ROW + index * OUT_ROW + 12
    ports.set(name, { name, side: 'out', kind, isParam: false, x: CARD_WIDTH, y })
  })
  return ports
}

const layoutOf = (module: PatchModule, used: ReadonlySet<string>, isOpen: boolean): CardLayout => {
  const description = descriptionOf(module)
  if (!description)
    return { rows: [], outputs: [], hidden: used.size, height: HEAD + ROW + FOOT, ports: new Map() }
  const shown = briefRows(module, used)
  const visible = (name: string): boolean => isOpen || shown.has(name)
  const rows: InRow[] = [
    ...description.inputs
      .filter((port) => visible(port.name))
      .map((port): InRow => ({ kind: 'input', port })),
    ...description.params
      .filter((param) => visible(param.name))
      .map((param): InRow => ({ kind: 'param', param })),
  ]
  const outputs = description.outputs.filter((port) => visible(port.name))
  const all = description.inputs.length + description.params.length + description.outputs.length
  return {
    rows,
    outputs,
    hidden: all - rows.length - outputs.length,
    height: HEAD + rows.length * ROW + outputs.length * OUT_ROW + FOOT,
    ports: portsOf(rows, outputs),
  }
}

/** Layouts by what they are made of: modules of one type mostly look alike. */
const layouts = new Map<string, CardLayout>()
const MOST_LAYOUTS = 2000

/** How a card looks with these of its ports in use. */
export const cardLayout = (module: PatchModule, used: ReadonlySet<string>, isOpen: boolean): CardLayout => {
  // A group's rows are its own.
  if (module.type === 'group') return layoutOf(module, used, isOpen)
  const key = isOpen
    ? `${module.type} open`
    : `${module.type} ${[...briefRows(module, used)].sort().join(' ')}`
  let layout = layouts.get(key)
  if (!layout) {
    layout = layoutOf(module, used, isOpen)
    if (layouts.size >= MOST_LAYOUTS) layouts.clear()
    layouts.set(key, layout)
  }
  return layout
}

/** Where a port stands on the chart; on the head while its row is hidden. */
export const portPoint = (
  layout: CardLayout,
  x: number,
  y: number,
  name: string,
  side: 'in' | 'out',
): Point => {
  const port = layout.ports.get(name)
  return port ? { x: x + port.x, y: y + port.y } : { x: side === 'in' ? x : x + CARD_WIDTH, y: y + HEAD / 2 }
}

/** The row that takes a cable at a height of the card. */
export const rowAt = (layout: CardLayout, y: number): string | undefined => {
  const row = layout.rows[Math.floor((y - HEAD) / ROW)]
  return row && y >= HEAD && takesCable(row) ? rowName(row) : undefined
}
/** The output whose row is at a height of the card. */
export const outputAt = (layout: CardLayout, y: number): string | undefined => {
  const below = y - HEAD - layout.rows.length * ROW
  return below < 0 ? undefined : layout.outputs[Math.floor(below / OUT_ROW)]?.name
}

export const boxOf = (layout: CardLayout, x: number, y: number): Box => ({
  left: x,
  top: y,
  right: x + CARD_WIDTH,
  bottom: y + layout.height,
})
