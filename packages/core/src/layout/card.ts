/** What a card shows, from top to bottom, and where everything on it stands: the same at every distance. */
import { CATALOGUE } from '../catalogue.ts'
import { isSignalParam } from '../describe/slots.ts'
import type { InputDescription, OutputDescription, ParamDescription, SignalKind } from '../describe/types.ts'
import { descriptionOf, faceOf } from '../patch/groups.ts'
import type { Patch, PatchModule } from '../patch/types.ts'
import { splitTarget } from '../patch/walk.ts'
import { own } from '../units/own.ts'

export const CARD_WIDTH = 192
export const HEAD = 27,
  ROW = 27,
  OUT_ROW = 24
const FOOT = 8

export type InRow =
  | { readonly kind: 'input'; readonly port: InputDescription }
  | { readonly kind: 'param'; readonly param: ParamDescription }

/** A port of a card, where it stands from the card's upper left corner. */
export interface PortPlace {
  readonly x: number
  readonly y: number
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

const ownLayouts = new WeakMap<PatchModule, Map<string, CardLayout>>()
const ownLayout = (module: PatchModule, used: ReadonlySet<string>, isOpen: boolean): CardLayout => {
  let known = ownLayouts.get(module)
  if (!known) ownLayouts.set(module, (known = new Map()))
  const key = `${isOpen ? 'open' : ''} ${[...used].sort().join(' ')}`
  let layout = known.get(key)
  if (!layout) known.set(key, (layout = layoutOf(module, used, isOpen)))
  return layout
}

/** How a card looks with these of its ports in use. */
export const cardLayout = (module: PatchModule, used: ReadonlySet<string>, isOpen: boolean): CardLayout => {
  // A group's rows are its own, and its ports carry what they say.
  if (!CATALOGUE.has(module.type)) return ownLayout(module, used, isOpen)
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

/** Rows a card shows in its brief form: what stands in front, what is connected, what differs from its default. */
export const briefRows = (module: PatchModule, used: ReadonlySet<string>): Set<string> => {
  const description = descriptionOf(module)
  const rows = new Set<string>(description?.front ?? [])
  for (const name of used) rows.add(name)
  for (const param of description?.params ?? []) {
    const value = own(module.params, param.name)
    if (value !== undefined && value !== param.default) rows.add(param.name)
  }
  return rows
}

const NO_NAMES: ReadonlySet<string> = new Set()
/** By the list of cables: edits of anything else keep it. */
const usedBefore = new WeakMap<Patch['cables'], ReadonlyMap<string, ReadonlySet<string>>>()

const usedIn = (cables: Patch['cables']): ReadonlyMap<string, ReadonlySet<string>> => {
  let used = usedBefore.get(cables)
  if (!used) {
    const found = new Map<string, Set<string>>()
    for (const cable of cables)
      for (const end of [cable.from, cable.to]) {
        const [module, name] = splitTarget(end) ?? []
        if (module === undefined || name === undefined) continue
        const names = found.get(module)
        if (names) names.add(name)
        else found.set(module, new Set([name]))
      }
    used = found
    usedBefore.set(cables, used)
  }
  return used
}

/** Names of a module's ports and parameters that cables of its level end or start on. */
export const usedNames = (level: Pick<Patch, 'cables'>, id: string): ReadonlySet<string> =>
  usedIn(level.cables).get(id) ?? NO_NAMES

/** The same of a card: a group's has rows of what stands in it as well. */
export const usedRows = (level: Pick<Patch, 'cables'>, module: PatchModule): ReadonlySet<string> => {
  const names = usedNames(level, module.id)
  if (module.type !== 'group') return names
  const shown = faceOf(module).filter(({ param }) => {
    const [id = '', name = ''] = splitTarget(param) ?? []
    return usedNames(level, id).has(name)
  })
  return shown.length > 0 ? new Set([...names, ...shown.map(({ param }) => param)]) : names
}

/** Height of a card in its brief form, in canvas pixels. */
export const cardHeight = (patch: Patch, module: PatchModule): number =>
  cardLayout(module, usedRows(patch, module), false).height
