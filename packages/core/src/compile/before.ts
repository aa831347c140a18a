/** What played before, and what of it stays for its fade. */
import type { Catalogue } from '../catalogue.ts'
import type { CompileOptions } from './options.ts'
import type { Plan, PlanAdapter } from './plan.ts'

const NO_COPIES: ReadonlyMap<string, string> = new Map()
const NO_TERMS: ReadonlyMap<string, number> = new Map()

export class Before {
  /** Ids of modules, copies included, that are there only for their fade. */
  readonly retired: ReadonlySet<string>
  /** Ids of copies, with the ids of what they are copies of. */
  readonly copies: ReadonlyMap<string, string>
  /** Copy of each module that changed. */
  readonly copyOf: ReadonlyMap<string, string>
  readonly modules: ReadonlySet<string>
  private readonly adapters: ReadonlyMap<string, PlanAdapter>
  /** Outputs that inputs read directly, by input. */
  private readonly direct = new Map<string, string>()
  /** Is there anything to fade from? */
  readonly exists: boolean

  constructor({ previous, retiring }: CompileOptions, catalogue: Catalogue) {
    this.exists = previous !== undefined
    this.retired = new Set(retiring?.modules.map(({ id }) => id))
    this.copies = retiring?.copies ?? NO_COPIES
    this.copyOf = new Map([...this.copies].map(([copy, id]) => [id, copy]))
    this.adapters = new Map(previous?.adapters.map((adapter) => [adapter.key, adapter]))
    this.modules = new Set(previous?.modules.map((module) => module.id))
    if (previous) this.noteDirect(previous, catalogue)
  }

  private noteDirect({ modules, signals }: Plan, catalogue: Catalogue): void {
    for (const module of modules) {
      const slots = catalogue.get(module.type)?.slots
      const names = new Map([...(slots?.inputs ?? [])].map(([name, slot]) => [slot, name]))
      for (const [slot, signal] of module.inputs) {
        const source = signal >= 0 ? signals[signal] : undefined
        if (source?.origin === 'output') this.direct.set(`${module.id}.${names.get(slot)}`, source.key)
      }
    }
  }

  /** What ended on an input, by the lasting names of its terms, with their amounts. */
  termsOf(input: string): ReadonlyMap<string, number> {
    const adapter = this.adapters.get(input)
    if (adapter)
      return new Map(
        adapter.terms
          .filter((term) => term.role === 'steady' || term.role === 'arriving')
          .map((term) => [term.key, term.amount]),
      )
    const direct = this.direct.get(input)
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
