/** Adapters of a plan in memory, and where the amount of every cable stands. */
import * as abi from '../kernels/abi.ts'
import type { Plan, PlanAdapter, PlanTerm } from '../compile/plan.ts'
import type { Image, Work } from './delta.ts'
import type { Keeping } from './keeping.ts'

const MAPPINGS = {
  same: abi.MAPPING_SAME,
  copy: abi.MAPPING_COPY,
  widen: abi.MAPPING_WIDEN,
  sum: abi.MAPPING_SUM,
  general: abi.MAPPING_GENERAL,
} as const
const ROLES = {
  steady: abi.ROLE_STEADY,
  leaving: abi.ROLE_LEAVING,
  arriving: abi.ROLE_ARRIVING,
  base: abi.ROLE_BASE,
} as const
export const groupsOf = (shape: { readonly voices: number; readonly sides: number }): number =>
  Math.ceil((shape.voices * shape.sides) / 4)

export interface Amount {
  readonly address: number
  amount: number
  readonly scale: number
}

/** What the adapters of a plan are placed with. */
export interface Placed {
  readonly plan: Plan
  /** Addresses of the plan's signals and parameters. */
  readonly signals: readonly number[]
  readonly params: readonly number[]
  readonly work: Work
}

export class Terms {
  private amounts = new Map<string, Amount>()
  /** The same by where a term stands. */
  private byPlace = new Map<string, Amount>()
  /** The same by cable. */
  private byCable = new Map<string, Amount[]>()
  private last: { readonly amounts: Map<string, Amount>; readonly byPlace: Map<string, Amount> } = {
    amounts: new Map(),
    byPlace: new Map(),
  }
  /** Amounts that are other than in the plan before. */
  private changed: [number, number][] = []

  constructor(private readonly keeping: Keeping) {}

  /** The terms a cable's amount appears in, and what it is multiplied by on the way. */
  ofCable(cable: string): readonly Amount[] {
    return this.byCable.get(cable) ?? []
  }

  place(placed: Placed): { adapters: number[]; amounts: [number, number][] } {
    this.last = { amounts: this.amounts, byPlace: this.byPlace }
    this.amounts = new Map()
    this.byPlace = new Map()
    this.byCable = new Map()
    this.changed = []
    const adapters = placed.plan.adapters.map((adapter) => this.placeAdapter(adapter, placed))
    return { adapters, amounts: this.changed }
  }

  private placeAdapter(adapter: PlanAdapter, placed: Placed): number {
    const { signals, params, work } = placed
    const block = this.keeping.take(abi.ADAPTER_BYTES + adapter.terms.length * abi.TERM_BYTES, work)
    const image = work.image(block.address, block.bytes)
    image.u32(abi.ADAPTER_SIGNAL, signals[adapter.signal]!)
    image.u32(abi.ADAPTER_GROUPS, groupsOf(adapter))
    image.u32(abi.ADAPTER_VOICES, adapter.voices)
    image.u32(abi.ADAPTER_SIDES, adapter.sides)
    image.u32(abi.ADAPTER_TERM_COUNT, adapter.terms.length)
    image.u32(abi.ADAPTER_TERMS, block.address + abi.ADAPTER_BYTES)
    image.u32(abi.ADAPTER_PARAM, adapter.param < 0 ? 0 : params[adapter.param]!)
    image.u32(abi.ADAPTER_FADE, adapter.fades ? abi.FADE_FRAMES + placed.plan.wait : 0)
    adapter.terms.forEach((term, index) => {
      this.placeTerm(adapter, term, image, abi.ADAPTER_BYTES + index * abi.TERM_BYTES, placed)
    })
    return block.address
  }

  /** `at`: place of the term in the adapter's image. */
  private placeTerm(
    adapter: PlanAdapter,
    term: PlanTerm,
    image: Image,
    at: number,
    { plan, signals, work }: Placed,
  ): void {
    const address = image.address + at,
      key = `${term.cable ?? ''}\n${adapter.key}\n${term.key}`
    const old = this.last.amounts.get(key) ?? this.last.byPlace.get(`${adapter.key}\n${term.was ?? ''}`)
    writeTerm(image, at, term, signals[term.source]!, old?.amount ?? term.amount)
    if (term.steals !== undefined) {
      const notes = plan.modules.find((module) => module.id === term.steals)!,
        groups = Math.ceil((term.sourceVoices * term.sourceSides) / 4)
      image.u32(at + abi.TERM_STEALS, this.keeping.blockOf(notes) + abi.CHANNEL_STEALS)
      image.u32(
        at + abi.TERM_HELD,
        this.keeping.keep(`h:${adapter.key}\n${term.key}`, 16, groups, work).address,
      )
    }
    // A ramp on its way goes on; what leaves keeps what it had.
    if (old) work.copy.push([old.address + abi.TERM_AMOUNT, address + abi.TERM_AMOUNT, abi.RAMP_BYTES])
    if (old !== undefined && term.was === undefined && old.amount !== term.amount)
      this.changed.push([address, term.amount])
    const amount = { address, amount: term.amount, scale: term.scale }
    this.amounts.set(key, amount)
    this.byPlace.set(`${adapter.key}\n${term.key}`, amount)
    if (term.cable === undefined) return
    const list = this.byCable.get(term.cable)
    if (list) list.push(amount)
    else this.byCable.set(term.cable, [amount])
  }
}

const writeTerm = (image: Image, at: number, term: PlanTerm, source: number, amount: number): void => {
  image.u32(at + abi.TERM_SOURCE, source)
  image.u32(at + abi.TERM_MAPPING, MAPPINGS[term.mapping])
  image.u32(at + abi.TERM_SOURCE_VOICES, term.sourceVoices)
  image.u32(at + abi.TERM_SOURCE_SIDES, term.sourceSides)
  image.f32(at + abi.TERM_AMOUNT, amount)
  image.u32(at + abi.TERM_ROLE, ROLES[term.role])
}
