/** Third stage: a cable that closes a loop without a delay is held back by one sample, by a unit delay of our own. */
import { type Catalogue, partOf } from '../catalogue.ts'
import type { Draft, Link } from './draft.ts'

/** Unit delays of a draft by the signal they hold back: one for all cables from it that are cut. */
export class Cutting {
  private readonly held = new Map<number, number>()

  constructor(
    private readonly draft: Draft,
    private readonly catalogue: Catalogue,
  ) {}

  /** The unit delay of a signal; what comes out of it. */
  private heldBack({ from, term: { source } }: Link): number {
    const known = this.held.get(source)
    if (known !== undefined) return known
    const { draft } = this,
      { key, voices, sides } = draft.signals[source]!
    const { slots, description } = partOf(this.catalogue, 'unitdelay')
    const { signal, first } = draft.addPart(
      {
        id: `~${key}`,
        type: description.type,
        voices,
        sides,
        fedVoices: voices,
        seed: 0,
        auxBytes: 0,
        settings: [],
        inputs: [[slots.inputs.get('in')!, source]],
      },
      slots.outputs.get('out')!,
      { voices, sides },
      description.stages!,
    )
    // It reads what is held before that is written: its second stage takes it.
    draft.fixed[from]!.push(first + 1)
    draft.delayed.push([first + 1, first])
    this.held.set(source, signal)
    return signal
  }

  cut(cable: Link): void {
    const { draft } = this,
      out = this.heldBack(cable)
    draft.fixed[draft.writers[out]!]!.push(cable.to)
    const { op, module } = draft.nodes[cable.to]!
    if (op.kind === 'adapter') {
      const adapter = draft.adapters[op.adapter]!
      const terms = adapter.terms.map((term) => (term === cable.term ? { ...term, source: out } : term))
      draft.adapters[op.adapter] = { ...adapter, terms }
      return
    }
    // A direct connection: the module reads the unit delay instead.
    const made = draft.modules[module]!,
      cutSlot = this.catalogue.get(made.type)!.slots.inputs.get(cable.input)
    draft.modules[module] = {
      ...made,
      inputs: made.inputs.map(([slot, signal]) => [slot, slot === cutSlot ? out : signal]),
    }
  }
}
