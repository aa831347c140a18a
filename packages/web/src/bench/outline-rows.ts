/**
 * The patch as rows of a tree: modules, in each its values, its data, its ports with their cables, and what
 * stands in it; frames and notes after them.
 */
import {
  type Cable,
  type DataDescription,
  descriptionOf,
  endWords,
  isSignalParam,
  labelOf,
  levelPatch,
  marksOf,
  modulesIn,
  own,
  paramAt,
  type ParamDescription,
  type ParamValue,
  type Patch,
  patchIndex,
  type PatchModule,
  printAmount,
  printValue,
  rowTarget,
  splitTarget,
} from '@ypsilon/core'
import { cablesFrom, cablesTo } from './cable-index.ts'
import { dataText } from './data-text.ts'
import { targetParam } from './fields/amount-field.tsx'

interface Row {
  /** Its own among all rows; what is expanded is known by it. */
  readonly key: string
  /** 1: on the bench itself. */
  readonly depth: number
  readonly label: string
  /** What stands behind the label: a value, a type, an amount. */
  readonly aside: string
  readonly isExpanded: boolean | undefined
  /** The module it belongs to; of a frame or a note the group it stands in, or none. */
  readonly module: string
}

export type OutlineRow =
  | (Row & { readonly kind: 'module' })
  | (Row & {
      readonly kind: 'param'
      readonly target: string
      readonly param: ParamDescription
      readonly value: ParamValue
    })
  | (Row & { readonly kind: 'input' | 'output'; readonly port: string })
  | (Row & { readonly kind: 'cable'; readonly cable: Cable })
  | (Row & { readonly kind: 'data'; readonly data: DataDescription; readonly value: unknown })
  /** A frame or a note; its text is what stands behind the label. */
  | (Row & { readonly kind: 'mark'; readonly mark: string; readonly words: 'frame' | 'note' })

/** What stands behind data that holds nothing. */
export const EMPTY = 'empty'

class Rows {
  readonly found: OutlineRow[] = []
  constructor(
    private readonly patch: Patch,
    private readonly expanded: ReadonlySet<string>,
  ) {}

  private cables(cables: readonly Cable[], module: string, depth: number, end: 'from' | 'to'): void {
    for (const cable of cables) {
      const amount = cable.amount ?? 1
      const aside = [
        amount === 1 ? '' : printAmount(targetParam(this.patch, cable.to), amount),
        cable.muted === true ? 'muted' : '',
      ]
      this.found.push({
        kind: 'cable',
        key: `${module} cable ${cable.id ?? `${cable.from}>${cable.to}`} ${end}`,
        depth,
        label: `${end} ${endWords(this.patch, cable[end])}`,
        aside: aside.filter(Boolean).join(', '),
        isExpanded: undefined,
        module,
        cable,
      })
    }
  }

  private param(module: PatchModule, known: ParamDescription, depth: number): void {
    const target = rowTarget(module.id, known.name)
    const [id = '', name = ''] = splitTarget(target) ?? []
    const owner = patchIndex(this.patch).module.get(id)
    const param = { ...paramAt({ ...known, name }, owner?.params), label: known.label }
    const value = own(owner?.params, name) ?? param.default
    const cables = isSignalParam(known) ? cablesTo(this.patch, target) : []
    this.found.push({
      kind: 'param',
      key: `${module.id} param ${known.name}`,
      depth,
      label: known.label,
      aside: printValue(param, value),
      isExpanded: undefined,
      module: module.id,
      target,
      param,
      value,
    })
    this.cables(cables, module.id, depth + 1, 'from')
  }

  private port(
    module: PatchModule,
    name: string,
    label: string,
    side: 'input' | 'output',
    depth: number,
  ): void {
    const port = `${module.id}.${name}`
    const cables = side === 'input' ? cablesTo(this.patch, port) : cablesFrom(this.patch, port)
    this.found.push({
      kind: side,
      key: `${module.id} ${side} ${name}`,
      depth,
      label,
      aside: cables.length === 0 ? 'not connected' : '',
      isExpanded: undefined,
      module: module.id,
      port,
    })
    this.cables(cables, module.id, depth + 1, side === 'input' ? 'from' : 'to')
  }

  module(module: PatchModule, depth: number): void {
    const description = descriptionOf(module),
      isExpanded = this.expanded.has(module.id),
      label = labelOf(this.patch, module.id)
    const type = description?.label ?? module.type
    this.found.push({
      kind: 'module',
      key: module.id,
      depth,
      label,
      aside: [label === type ? '' : type.toLowerCase(), module.bypass === true ? 'bypassed' : '']
        .filter(Boolean)
        .join(', '),
      isExpanded,
      module: module.id,
    })
    if (isExpanded) this.within(module, depth + 1)
  }

  /** What a module has, from top to bottom, and what stands in it. */
  private within(module: PatchModule, depth: number): void {
    const description = descriptionOf(module)
    if (description) {
      const { inputs, params, data = [], outputs } = description
      for (const { name, label = name } of inputs) this.port(module, name, label, 'input', depth)
      for (const param of params) this.param(module, param, depth)
      for (const each of data) this.data(module, each, depth)
      for (const { name, label = name } of outputs) this.port(module, name, label, 'output', depth)
    }
    if (!module.inside) return
    for (const inner of module.inside.modules) this.module(inner, depth)
    this.marks(levelPatch(this.patch, module.id), module.id, depth)
  }

  private data(module: PatchModule, data: DataDescription, depth: number): void {
    const value = own(module.data, data.name) ?? data.default ?? []
    this.found.push({
      kind: 'data',
      key: `${module.id} data ${data.name}`,
      depth,
      // Ports may have the same names.
      label: `${data.label ?? data.name}, data`,
      aside: dataText(data, value) || EMPTY,
      isExpanded: undefined,
      module: module.id,
      data,
      value,
    })
  }

  /** Frames and notes of a level. */
  marks(level: Patch, group: string, depth: number): void {
    const { frames, notes } = marksOf(level)
    const row = (words: 'frame' | 'note', mark: string, label: string, aside: string): void => {
      const key = `${group} ${words} ${mark}`
      this.found.push({
        kind: 'mark',
        key,
        depth,
        label,
        aside,
        isExpanded: undefined,
        module: group,
        mark,
        words,
      })
    }
    for (const frame of frames) {
      const count = modulesIn(level, frame).length
      row('frame', frame.id, `Frame of ${count === 1 ? '1 module' : `${count} modules`}`, frame.title)
    }
    for (const note of notes) row('note', note.id, 'Note', note.text)
  }
}

/** All rows that are shown: everything on the bench, and what is in those modules that are expanded. */
export const outlineRows = (patch: Patch, expanded: ReadonlySet<string>): readonly OutlineRow[] => {
  const rows = new Rows(patch, expanded)
  for (const module of patch.modules) rows.module(module, 1)
  rows.marks(patch, '', 1)
  return rows.found
}

/** The row that a row stands in: the nearest one before it that is less deep. */
export const rowAround = (rows: readonly OutlineRow[], at: number): number => {
  const depth = rows[at]?.depth ?? 1
  for (let n = at - 1; n >= 0; n -= 1) if (rows[n]!.depth < depth) return n
  return -1
}
