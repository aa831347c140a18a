import {
  briefRows,
  descriptionOf,
  type InputDescription,
  isSignalParam,
  type OutputDescription,
  type ParamDescription,
  type Patch,
  type PatchModule,
  usedNames,
} from '@ypsilon/core'
import type { Box, Point } from './routing.ts'

export const CARD_WIDTH = 192
const HEAD = 27,
  ROW = 27,
  OUT_ROW = 24,
  FOOT = 8

export type InRow =
  | { readonly kind: 'input'; readonly port: InputDescription }
  | { readonly kind: 'param'; readonly param: ParamDescription }

/** What a card shows, from top to bottom, and where its ports stand. */
export interface CardLayout {
  readonly rows: readonly InRow[]
  readonly outputs: readonly OutputDescription[]
  readonly hidden: number
  readonly height: number
}

export const cardLayout = (patch: Patch, module: PatchModule, open: boolean): CardLayout => {
  const description = descriptionOf(module)
  if (!description) {
    const used = usedNames(patch, module.id)
    return { rows: [], outputs: [], hidden: used.size, height: HEAD + ROW + FOOT }
  }
  const shown = briefRows(module, usedNames(patch, module.id))
  const visible = (name: string): boolean => open || shown.has(name)
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
  }
}

export const rowName = (row: InRow): string => (row.kind === 'input' ? row.port.name : row.param.name)
/** True where a cable may end on the row. */
export const takesCable = (row: InRow): boolean => row.kind === 'input' || isSignalParam(row.param)

export const inputPoint = (layout: CardLayout, x: number, y: number, name: string): Point => {
  const index = layout.rows.findIndex((row) => rowName(row) === name)
  return { x, y: y + (index < 0 ? HEAD / 2 : HEAD + index * ROW + 13) }
}

export const outputPoint = (layout: CardLayout, x: number, y: number, name: string): Point => {
  const index = layout.outputs.findIndex((port) => port.name === name)
  return {
    x: x + CARD_WIDTH,
    y: y + (index < 0 ? HEAD / 2 : HEAD + layout.rows.length * ROW + index * OUT_ROW + 12),
  }
}

export const boxOf = (layout: CardLayout, x: number, y: number): Box => ({
  left: x,
  top: y,
  right: x + CARD_WIDTH,
  bottom: y + layout.height,
})
