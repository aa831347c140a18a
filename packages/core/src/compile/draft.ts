/** A plan while it is made: what is placed so far, and who writes and reads what. One for a compilation. */
import type { Catalogue } from '../catalogue.ts'
import type { Stage } from '../describe/types.ts'
import type { Patch } from '../patch/types.ts'
import type { FlatPatch } from './flatten.ts'
import type { Before } from './before.ts'
import type { CompileOptions } from './options.ts'
import type { PlanAdapter, PlanModule, PlanOp, PlanParam, PlanSignal, PlanTerm } from './plan.ts'
import type { Settings } from './reach.ts'
import type { Shape } from './shapes.ts'

/** What every stage of a compilation reads. */
export interface Source {
  readonly patch: Patch
  readonly flat: FlatPatch
  readonly shapes: ReadonlyMap<string, Shape>
  readonly catalogue: Catalogue
  readonly sampleRate: number
  readonly options: CompileOptions
  readonly settings: Settings
  /** Note source whose stolen voices each module has. */
  readonly origins: ReadonlyMap<string, string>
  readonly before: Before
}

/** One thing that is run: a stage of a module, or an adapter. */
export interface Node {
  readonly op: PlanOp
  readonly module: number
  readonly stage: Stage | undefined
  readonly type: string
}

/** What a cable joins: the source signal is known at once, its writer only when all is placed. */
export interface Link {
  /** Node that writes it, once all is placed; -1 where that is no node. */
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
  readonly signals: PlanSignal[] = []
  readonly params: PlanParam[] = []
  readonly adapters: PlanAdapter[] = []
  readonly modules: PlanModule[] = []
  readonly nodes: Node[] = []
  /** Nodes that certainly run after each node. */
  readonly fixed: number[][] = []
  readonly links: Link[] = []
  /** Pairs joined by a delay: the first belongs to the loop of the second, but does not run before it. */
  readonly delayed: (readonly [from: number, to: number])[] = []
  /** Signal of every output, by `module.port`. */
  readonly outputs = new Map<string, number>()
  /** Signals of parameters that formulas read, made before any module is placed. */
  readonly readParams = new Map<string, number>()
  /** Node that writes each signal. */
  readonly writers = new Map<number, number>()
  readonly nodesOf = new Map<string, readonly { readonly node: number; readonly stage: Stage }[]>()
  memoryBytes = 0

  addSignal(key: string, { voices, sides }: Shape, origin: PlanSignal['origin']): number {
    const wanted = origin !== 'output'
    return this.signals.push({ key, voices, sides, inLoop: false, wanted, origin }) - 1
  }

  /** Notes that somebody reads a signal. Set values are always read: they are shared by plans and never change. */
  want(index: number): void {
    const signal = this.signals[index]!
    if (!signal.wanted) signal.wanted = true
  }

  addNode(op: PlanOp, module: number, stage: Stage | undefined, type: string): number {
    this.fixed.push([])
    return this.nodes.push({ op, module, stage, type }) - 1
  }

  /** The nodes of a module's stages, in order. */
  addStages(id: string, module: number, type: string, stages: readonly Stage[]): void {
    const placed: { node: number; stage: Stage }[] = []
    for (const stage of stages) {
      const node = this.addNode(
        { kind: 'module', module, call: `${type}.${stage.name}` },
        module,
        stage,
        type,
      )
      if (placed.length > 0) this.fixed[placed[placed.length - 1]!.node]!.push(node)
      placed.push({ stage, node })
    }
    this.nodesOf.set(id, placed)
  }

  /** Notes which stages of a module read an input; by default they run after the signal's writer. */
  read(id: string, input: string, signal: number, ordered = true): readonly number[] {
    const nodes: number[] = []
    for (const { node, stage } of this.nodesOf.get(id)!) {
      if (stage.reads && !stage.reads.includes(input)) continue
      nodes.push(node)
      if (ordered) this.fixed[this.writers.get(signal)!]!.push(node)
    }
    return nodes
  }
}
