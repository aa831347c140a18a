/** A plan while it is put together: who writes and reads what. One for a compilation. */
import type { Stage } from '../describe/types.ts'
import type { Piece, Read } from './piece.ts'
import type { PlanAdapter, PlanModule, PlanOp, PlanParam, PlanSignal, PlanTerm } from './plan.ts'
import type { Shape } from './shapes.ts'

/** One thing that is run: a stage of a module, or an adapter. */
export interface Node {
  readonly op: PlanOp
  readonly module: number
  readonly stage: Stage | undefined
  readonly type: string
}

/** What a cable joins: the source signal is known at once, its writer only when all is there. */
export interface Link {
  /** Node that writes it, once all is there; -1 where that is no node. */
  from: number
  /** Node that reads it. */
  readonly to: number
  readonly order: number
  /** Input or parameter it ends on. */
  readonly input: string
  readonly term: PlanTerm
  readonly name: string
}

export class Draft {
  readonly signals: (PlanSignal | undefined)[]
  readonly wanted: Uint8Array
  /** Node that writes each signal; -1 where that is no node. */
  readonly writers: Int32Array
  readonly params: PlanParam[] = []
  readonly adapters: PlanAdapter[] = []
  readonly modules: PlanModule[] = []
  /** First node of each module. */
  private readonly nodesOf: number[] = []
  readonly nodes: Node[] = []
  /** Nodes that certainly run after each node. */
  readonly fixed: number[][] = []
  readonly links: Link[] = []
  /** Pairs joined by a delay: the first belongs to the loop of the second, but does not run before it. */
  readonly delayed: (readonly [from: number, to: number])[] = []
  memoryBytes = 0

  /** `signals`: how many numbers modules may take; parts of the compiler's own come after them. */
  constructor(signals: number) {
    this.signals = new Array<PlanSignal | undefined>(signals).fill(undefined)
    // Every signal can be held back once.
    this.wanted = new Uint8Array(2 * signals)
    this.writers = new Int32Array(2 * signals).fill(-1)
  }

  private addNode(op: PlanOp, module: number, stage: Stage | undefined, type: string): number {
    this.fixed.push([])
    return this.nodes.push({ op, module, stage, type }) - 1
  }

  /** Adds a module with the nodes of its stages, in order; the first of them. */
  private addStages(made: PlanModule, stages: readonly Stage[]): number {
    const module = this.modules.push(made) - 1,
      first = this.nodes.length
    this.nodesOf.push(first)
    stages.forEach((stage, at) => {
      this.addNode({ kind: 'module', module, call: `${made.type}.${stage.name}` }, module, stage, made.type)
      if (at > 0) this.fixed[first + at - 1]!.push(first + at)
      // What is read before it is written joins into one loop, and does not order.
      if (stage.reportsDelay && stages.length > 1) this.delayed.push([first + stages.length - 1, first + at])
    })
    return first
  }

  /** Signals and nodes of a module; what it reads comes when all are there. */
  addModule({ place, module, params, signals }: Piece): void {
    const { stages, outputs } = place.facts.form
    for (const [number, made] of signals) {
      this.signals[number] = made
      if (made.origin !== 'output') this.wanted[number] = 1
    }
    for (const param of params) this.params.push(param)
    const first = this.addStages(module, stages)
    for (const { at, stage } of outputs) if (stage >= 0) this.writers[place.signal + at] = first + stage
    this.memoryBytes += module.auxBytes + (module.table?.byteLength ?? 0)
  }

  /** A guest runs after the one whose memory it looks into. */
  follow(keeper: number, guest: number): void {
    this.fixed[this.nodesOf[keeper]!]!.push(this.nodesOf[guest]!)
  }

  /** What a module reads: an adapter where there has to be one, and the cables that end there. */
  addRead(module: number, read: Read): void {
    const first = this.nodesOf[module]!
    const { adapter } = read
    if (!adapter) {
      for (const stage of read.stages) this.link(first + stage, read)
      return
    }
    const op = { kind: 'adapter' as const, adapter: this.adapters.push(adapter) - 1 }
    const node = this.addNode(op, -1, undefined, 'adapter')
    this.writers[adapter.signal] = node
    if (read.factor >= 0) this.writers[read.factor] = node
    const after = this.fixed[node]!
    for (const stage of read.stages) after.push(first + stage)
    this.link(node, read)
  }

  private link(to: number, { input, joined }: Read): void {
    for (const { term, feed } of joined) {
      this.wanted[term.source] = 1
      const order = feed?.order ?? Number.MAX_SAFE_INTEGER
      this.links.push({ from: -1, to, order, input, term, name: feed?.name ?? '' })
    }
  }

  /** A module of the compiler's own with one output: its signal, and the nodes of its stages. */
  addPart(
    made: Omit<PlanModule, 'outputs'>,
    slot: number,
    shape: Shape,
    stages: readonly Stage[],
  ): { readonly signal: number; readonly first: number } {
    const { voices, sides } = shape
    const signal = this.signals.push({ key: `${made.id}.out`, voices, sides, origin: 'output' }) - 1
    this.wanted[signal] = 1
    const first = this.addStages({ ...made, outputs: [[slot, signal]] }, stages)
    this.writers[signal] = first
    return { signal, first }
  }
}
