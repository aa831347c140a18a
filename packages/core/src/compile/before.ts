/** What played before, and what of it stays for its fade. */
import type { Catalogue } from '../catalogue.ts'
import type { CompileOptions } from './options.ts'
import { NOTHING, type PlanAdapter, type PlanModule } from './plan.ts'

const NO_COPIES: ReadonlyMap<string, string> = new Map()
const NO_TERMS: ReadonlyMap<string, number> = new Map()

export class Before {
  /** Ids of modules, copies included, that are there only for their fade. */
  readonly retired: ReadonlySet<string>
  /** Ids of copies, with the ids of what they are copies of. */
  readonly copies: ReadonlyMap<string, string>
  /** Copy of each module that changed. */
  readonly copyOf: ReadonlyMap<string, string>
  private readonly modules: ReadonlyMap<string, PlanModule>
  private readonly adapters: ReadonlyMap<string, PlanAdapter>
  /** Is there anything to fade from? */
  readonly exists: boolean

  constructor(
    private readonly options: CompileOptions,
    private readonly catalogue: Catalogue,
  ) {
    const { previous, retiring } = options
    this.exists = previous !== undefined
    this.retired = new Set(retiring?.modules.map(({ id }) => id))
    this.copies = retiring?.copies ?? NO_COPIES
    this.copyOf = new Map([...this.copies].map(([copy, id]) => [id, copy]))
    this.adapters = new Map(previous?.adapters.map((adapter) => [adapter.key, adapter]))
    this.modules = new Map(previous?.modules.map((module) => [module.id, module]))
  }

  /** The module of an id, as it was. */
  module(id: string): PlanModule | undefined {
    return this.modules.get(id)
  }

  /** Is a module new, changed or about to go, so that what hears it fades? */
  isTouched(id: string): boolean {
    return this.retired.has(id) || this.copyOf.has(id) || this.copies.has(id)
  }

  /** The output that an input read directly. */
  private directAt(input: string): string | undefined {
    const dot = input.indexOf('.'),
      module = this.modules.get(input.slice(0, dot))
    const at = module && this.catalogue.get(module.type)?.slots.inputs.get(input.slice(dot + 1))
    const signal = module?.inputs.find(([slot]) => slot === at)?.[1] ?? NOTHING
    const source = signal >= 0 ? this.options.previous!.signals[signal] : undefined
    return source?.origin === 'output' ? source.key : undefined
  }

  /** What ended on an input, by the lasting names of its terms, with their amounts. */
  termsOf(input: string): ReadonlyMap<string, number> {
    if (!this.exists) return NO_TERMS
    const adapter = this.adapters.get(input)
    if (adapter)
      return new Map(
        adapter.terms
          .filter((term) => term.role === 'steady' || term.role === 'arriving')
          .map((term) => [term.key, term.amount]),
      )
    const direct = this.directAt(input)
    return direct === undefined ? NO_TERMS : new Map([[`${direct}#0`, 1]])
  }

  /** Source and lasting name of a term that fades: of the copy, where the source is one that changed. */
  leavingFrom(name: string): readonly [source: string, key: string] {
    const end = name.lastIndexOf('#'),
      source = name.slice(0, end),
      dot = source.indexOf('.')
    const copy = this.copyOf.get(source.slice(0, dot))
    return copy === undefined ? [source, name] : [`${copy}${source.slice(dot)}`, `${copy}${name.slice(dot)}`]
  }
}
