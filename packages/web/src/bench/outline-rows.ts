/** The patch as rows of a tree: modules, in each its values, its ports with their cables, and what stands in it. */
import {
  type Cable,
  descriptionOf,
  endWords,
  isFormula,
  isSignalParam,
  labelOf,
  own,
  paramAt,
  type ParamDescription,
  type ParamValue,
  type Patch,
  patchIndex,
  type PatchModule,
  printAmount,
  printNumber,
  rowTarget,
  splitTarget,
} from '@ypsilon/core'
import { cablesFrom, cablesTo } from './cable-index.ts'
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
  /** The module it belongs to. */
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

const valueWords = (param: ParamDescription, value: ParamValue): string => {
  if (isFormula(value)) return String(value)
  if (param.kind === 'number' && typeof value === 'number') return printNumber(param, value)
  if (typeof value === 'boolean') return value ? 'on' : 'off'
  return String(value)
}

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
      aside: valueWords(param, value),
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
    const { inputs = [], params = [], outputs = [] } = descriptionOf(module) ?? {}
    for (const { name, label = name } of inputs) this.port(module, name, label, 'input', depth)
    for (const param of params) this.param(module, param, depth)
    for (const { name, label = name } of outputs) this.port(module, name, label, 'output', depth)
    for (const inner of module.inside?.modules ?? []) this.module(inner, depth)
  }
}

/** All rows that are shown: everything on the bench, and what is in those modules that are expanded. */
export const outlineRows = (patch: Patch, expanded: ReadonlySet<string>): readonly OutlineRow[] => {
  const rows = new Rows(patch, expanded)
  for (const module of patch.modules) rows.module(module, 1)
  return rows.found
}

/** The row that a row stands in: the nearest one before it that is less deep. */
export const rowAround = (rows: readonly OutlineRow[], at: number): number => {
  const depth = rows[at]?.depth ?? 1
  for (let n = at - 1; n >= 0; n -= 1) if (rows[n]!.depth < depth) return n
  return -1
}
