import type { Catalogue, CatalogueEntry } from '../catalogue.ts'
import { leastOf, paramAt } from '../describe/params.ts'
import { isSignalParam } from '../describe/slots.ts'
import type { ParamDescription, Stage } from '../describe/types.ts'
import type { Cable, Patch, PatchModule } from '../patch/types.ts'
import { isFormula } from '../patch/formulas.ts'
import { tuningFor } from '../patch/tuning.ts'
import type { Feed, FlatPatch } from './flatten.ts'
import { closingCables, components, topological } from '../patch/graph.ts'
import {
  type LoopReport,
  type Mapping,
  NOTHING,
  ONE,
  type ParamMode,
  type Plan,
  type PlanAdapter,
  type PlanModule,
  type PlanOp,
  type PlanParam,
  type PlanSignal,
  type PlanTerm,
  type Role,
} from './plan.ts'
import type { AssetSound } from '../describe/types.ts'
import { type Settings, settingsOf } from './reach.ts'
import { memoryOf, sumsVoices, noteOrigins, outputShape, type Shape } from './shapes.ts'
import { tableFor } from './tables.ts'
import { own } from '../units/own.ts'

export interface CompileOptions {
  readonly catalogue?: Catalogue
  readonly sampleRate?: number
  /** Recordings the patch brings along, by id. */
  readonly assets?: ReadonlyMap<string, AssetSound>
  /** Greatest values that events to come will set, by target: memory is sized for them. */
  readonly settings?: Settings
  /** The plan now playing: changed sources of audio and control inputs cross-fade from it. */
  readonly previous?: Plan
  /** What is kept for as long as its sound fades. */
  readonly retiring?: Retiring
}

/** Modules just removed, and copies of modules as they were before they changed, with what feeds them. */
export interface Retiring {
  readonly modules: readonly PatchModule[]
  readonly cables: readonly Cable[]
  /** Ids of copies, with the ids of what they are copies of. */
  readonly copies: ReadonlyMap<string, string>
}
const NO_COPIES: ReadonlyMap<string, string> = new Map()

const WHOLE: readonly Stage[] = [{ name: 'process' }]

/** FNV-1a over the patch seed and the module's id: its random seed, whatever happens around it. */
export const seedOf = (patchSeed: number, id: string): number => {
  let hash = (2166136261 ^ (patchSeed | 0)) >>> 0
  for (let i = 0; i < id.length; i += 1) hash = Math.imul(hash ^ id.charCodeAt(i), 16777619) >>> 0
  return hash
}

const modeOf = (param: ParamDescription): ParamMode =>
  param.kind === 'switch'
    ? 'switch'
    : param.kind === 'number' && param.log
      ? 'octaves'
      : param.kind === 'number' && param.time
        ? 'time'
        : 'linear'

const mappingOf = (source: Shape, target: Shape): Mapping => {
  if (source.voices === target.voices && source.sides === target.sides) return 'same'
  if (source.voices === 1 && source.sides === 1 && target.sides === 1) return 'copy'
  if (source.voices === 1 && source.sides === 2 && target.sides === 2) return 'copy'
  if (source.voices === target.voices && source.sides === 1 && target.sides === 2) return 'widen'
  return target.voices === 1 && (source.sides === 1 || target.sides === 2) ? 'sum' : 'general'
}

/** The value a parameter is set to, as the number kernels read. */
export const plainValue = (param: ParamDescription, value: unknown): number => {
  const given = value === undefined || isFormula(value) ? param.default : value
  if (param.kind === 'choice') return param.choices.indexOf(String(given))
  if (param.kind === 'switch') return given === true ? 1 : 0
  return Number(given)
}

interface Node {
  readonly op: PlanOp
  readonly module: number
  readonly stage: Stage | undefined
  readonly type: string
}

/** Builds a plan step by step; one object a compilation, thrown away after it. */
export class Builder {
  readonly signals: PlanSignal[] = []
  readonly params: PlanParam[] = []
  readonly adapters: PlanAdapter[] = []
  readonly modules: PlanModule[] = []
  private readonly nodes: Node[] = []
  private readonly fixed: number[][] = []
  /** What a cable joins: the source signal is known at once, its writer only when all is placed. */
  private readonly links: {
    readonly to: number
    readonly order: number
    readonly term: PlanTerm
    readonly name: string
  }[] = []
  private readonly delayed: [number, number][] = []
  private readonly outputs = new Map<string, number>()
  /** Signals of parameters that formulas read, made before any module is placed. */
  private readonly readParams = new Map<string, number>()
  private readonly writers = new Map<number, number>()
  private readonly readers: { node: number; module: string; input: string; signal: number }[] = []
  private readonly nodesOf = new Map<string, { node: number; stage: Stage }[]>()
  private readonly oldAdapters: Map<string, PlanAdapter>
  private readonly oldDirect: Map<string, string>
  private readonly oldModules: Set<string>
  private memoryBytes = 0
  private readonly settings: Settings
  private readonly origins: ReadonlyMap<string, string>
  private readonly retired: ReadonlySet<string>
  private readonly copies: ReadonlyMap<string, string>
  /** Copy of each module that changed. */
  private readonly copyOf: ReadonlyMap<string, string>

  constructor(
    private readonly patch: Patch,
    private readonly flat: FlatPatch,
    private readonly shapes: Map<string, Shape>,
    private readonly catalogue: Catalogue,
    private readonly sampleRate: number,
    private readonly options: CompileOptions,
  ) {
    const { previous, retiring } = options
    this.retired = new Set((retiring?.modules ?? []).map(({ id }) => id))
    this.copies = retiring?.copies ?? NO_COPIES
    this.copyOf = new Map([...this.copies].map(([copy, id]) => [id, copy]))
    this.settings = settingsOf(patch, options.settings)
    this.origins = noteOrigins(flat, catalogue)
    this.oldAdapters = new Map((previous?.adapters ?? []).map((adapter) => [adapter.key, adapter]))
    this.oldModules = new Set((previous?.modules ?? []).map((module) => module.id))
    this.oldDirect = new Map()
    for (const module of previous?.modules ?? []) {
      const slots = catalogue.get(module.type)?.slots
      const names = new Map([...(slots?.inputs ?? [])].map(([name, slot]) => [slot, name]))
      for (const [slot, signal] of module.inputs) {
        const source = signal >= 0 ? previous!.signals[signal] : undefined
        if (source?.origin === 'output') this.oldDirect.set(`${module.id}.${names.get(slot)}`, source.key)
      }
    }
  }

  build(): Plan {
    for (const module of this.flat.modules) this.addOutputs(module)
    this.addReadParams()
    for (const module of this.flat.modules) this.addModule(module)
    const ops = this.orderOps()
    const { tuning } = tuningFor(this.patch)
    return {
      signals: this.signals,
      params: this.params,
      adapters: this.adapters,
      modules: this.modules,
      ops: ops.ops,
      loops: ops.loops,
      tempo: this.patch.tempo ?? 120,
      ...(tuning ? { tuning } : {}),
      shadowed: [...this.flat.shadowed],
      memoryBytes: this.memoryBytes,
    }
  }

  private addSignal(key: string, shape: Shape, origin: PlanSignal['origin']): number {
    return (
      this.signals.push({
        key,
        voices: shape.voices,
        sides: shape.sides,
        inLoop: false,
        wanted: origin !== 'output',
        origin,
      }) - 1
    )
  }

  private addNode(op: PlanOp, module: number, stage: Stage | undefined, type: string): number {
    this.fixed.push([])
    return this.nodes.push({ op, module, stage, type }) - 1
  }

  private addReadParams(): void {
    for (const feeds of this.flat.feeds.values()) {
      for (const { module, port } of feeds) {
        const key = `${module}.${port}`
        if (this.outputs.has(key) || this.readParams.has(key)) continue
        const modulated = this.flat.feeds.has(key)
        this.readParams.set(
          key,
          this.addSignal(
            `${modulated ? '>' : '='}${key}`,
            modulated ? this.shapes.get(module)! : { voices: 1, sides: 1 },
            modulated ? 'adapter' : 'set',
          ),
        )
      }
    }
  }

  /** Outputs and run nodes first, so that cables can point anywhere. */
  private addOutputs(module: PatchModule): void {
    const { description } = this.catalogue.get(module.type)!
    const shape = this.shapes.get(module.id)!
    for (const port of description.outputs) {
      const key = `${module.id}.${port.name}`
      this.outputs.set(key, this.addSignal(key, outputShape(shape, port), 'output'))
    }
    const index = this.nodesOf.size
    const stages = description.stages ?? WHOLE
    const placed = stages.map((stage) => ({
      stage,
      node: this.addNode(
        { kind: 'module', module: index, call: `${module.type}.${stage.name}` },
        index,
        stage,
        module.type,
      ),
    }))
    placed.forEach(({ node, stage }, at) => {
      const following = placed[at + 1]
      if (following) this.fixed[node]!.push(following.node)
      if (stage.reportsDelay && placed.length > 1) this.delayed.push([placed[placed.length - 1]!.node, node])
      for (const port of description.outputs) {
        if (!stage.writes || stage.writes.includes(port.name))
          this.writers.set(this.outputs.get(`${module.id}.${port.name}`)!, node)
      }
    })
    this.nodesOf.set(module.id, placed)
  }

  private addModule(module: PatchModule): void {
    const entry = this.catalogue.get(module.type)!
    const { description, slots } = entry
    const shape = this.shapes.get(module.id)!
    const inputs: [number, number][] = []
    for (const port of description.inputs) {
      const kindFades = port.kind === 'audio' || port.kind === 'control'
      inputs.push([slots.inputs.get(port.name)!, this.connect(module, port.name, shape, -1, kindFades)])
    }
    for (const param of description.params)
      if (isSignalParam(param)) this.addParam(module, entry, param, shape, inputs)
    const settings: [number, number, boolean][] = []
    for (const param of description.params) {
      const slot = slots.settings.get(param.name)
      if (slot !== undefined)
        settings.push([slot, plainValue(param, own(module.params, param.name)), param.kind === 'choice'])
    }
    const auxBytes = memoryOf(module, shape, this.flat, this.settings, this.catalogue, this.sampleRate)
    const table = description.table
      ? tableFor(module, this.catalogue, this.sampleRate, this.options.assets)
      : undefined
    this.memoryBytes += auxBytes + (table?.byteLength ?? 0)
    this.modules.push({
      id: module.id,
      type: module.type,
      voices: shape.voices,
      sides: shape.sides,
      fedVoices: this.fedVoices(module.id),
      seed: seedOf(this.patch.seed ?? 1, this.copies.get(module.id) ?? module.id),
      ...this.origin(module.id),
      inputs,
      settings,
      auxBytes,
      ...(table ? { table } : {}),
      outputs: description.outputs.map((port) => [
        slots.outputs.get(port.name)!,
        this.outputs.get(`${module.id}.${port.name}`)!,
      ]),
    })
  }

  /** Where a copy gets its state from: a module that plays on beside it, or one that does not. */
  private origin(id: string): { copyOf?: string; stateOf?: string } {
    const original = this.copies.get(id)
    if (original === undefined) return {}
    return this.flat.byId.has(original) ? { copyOf: original } : { stateOf: original }
  }

  private fedVoices(id: string): number {
    const { description } = this.catalogue.get(this.flat.byId.get(id)!.type)!
    return Math.max(
      1,
      ...description.inputs.flatMap((port) =>
        (this.flat.feeds.get(`${id}.${port.name}`) ?? []).map(
          (feed) => this.signals[this.outputs.get(`${feed.module}.${feed.port}`) ?? 0]!.voices,
        ),
      ),
    )
  }

  private addParam(
    module: PatchModule,
    entry: CatalogueEntry,
    param: ParamDescription,
    shape: Shape,
    inputs: [number, number][],
  ): void {
    const key = `${module.id}.${param.name}`
    const modulated =
      this.flat.feeds.has(key) ||
      (this.options.previous !== undefined &&
        this.oldKeys(key).size > 0 &&
        this.termsOf(module, param.name, shape, true).length > 0)
    const wantsFactor = param.kind === 'number' && param.factor === true
    const index = this.params.length
    const factor = wantsFactor && modulated ? this.addSignal(`^${key}`, shape, 'factor') : NOTHING
    const number = param.kind === 'number' ? paramAt(param, module.params) : undefined
    const slot = entry.slots.inputs.get(param.name)!
    const record = (signal: number): PlanParam => ({
      key,
      base: plainValue(param, own(module.params, param.name)),
      mode: modeOf(param),
      min: number?.min ?? 0,
      max: number?.max ?? 1,
      least: number?.time ? leastOf(number, this.sampleRate) : 0,
      exact: param.kind === 'switch' || number?.exact === true,
      signal,
      factor,
      modulated,
      ...(this.copies.has(module.id) ? { copyOf: `${this.copies.get(module.id)}.${param.name}` } : {}),
    })
    if (modulated) {
      // The adapter's signal is the next one made.
      this.params.push(record(this.readParams.get(key) ?? this.signals.length))
      const signal = this.connect(module, param.name, shape, index, true)
      inputs.push([slot, signal])
      if (factor >= 0) this.writers.set(factor, this.writers.get(signal)!)
    } else {
      const signal = this.readParams.get(key) ?? this.addSignal(`=${key}`, { voices: 1, sides: 1 }, 'set')
      this.params.push(record(signal))
      inputs.push([slot, signal])
    }
    const factorSlot = entry.slots.factors.get(param.name)
    if (factorSlot !== undefined) {
      inputs.push([factorSlot, factor >= 0 ? factor : ONE])
      if (factor >= 0) this.read(module.id, param.name, factor)
    }
  }

  /** Terms of an input: what ends on it now, and while it fades also what ended on it before. */
  private termsOf(
    module: PatchModule,
    input: string,
    shape: Shape,
    fades: boolean,
  ): { terms: PlanTerm[]; feeds: (Feed | undefined)[]; length: number } {
    const key = `${module.id}.${input}`
    const feeds = this.flat.feeds.get(key) ?? []
    const counts = new Map<string, number>()
    const fresh = feeds.map((feed) => {
      const source = `${feed.module}.${feed.port}`
      const n = counts.get(source) ?? 0
      counts.set(source, n + 1)
      return { feed, key: `${source}#${n}` }
    })
    const before = this.oldKeys(key)
    const isOutput = this.catalogue.get(module.type)!.description.role === 'output'
    // What is faded in as a whole has nothing to fade at its inputs.
    const fading =
      fades &&
      this.options.previous !== undefined &&
      (this.oldModules.has(module.id) || isOutput) &&
      !this.copyOf.has(module.id)
    const now = new Set(fresh.map((term) => term.key))
    const sums = shape.voices === 1 && sumsVoices(module, this.catalogue)
    const terms: PlanTerm[] = [],
      kept: (Feed | undefined)[] = []
    for (const { feed, key: name } of fresh) {
      const retired = this.retired.has(module.id) || this.retired.has(feed.module)
      const role: Role = feed.base
        ? 'base'
        : !fading
          ? 'steady'
          : retired && (isOutput || !this.retired.has(module.id))
            ? 'leaving'
            : before.has(name) && !this.copyOf.has(feed.module)
              ? 'steady'
              : 'arriving'
      terms.push(this.term(name, `${feed.module}.${feed.port}`, feed, shape, role, sums))
      kept.push(feed)
    }
    if (fading) {
      for (const [name, amount] of before) {
        const [source, key] = this.leavingFrom(name)
        if ((key === name && now.has(name)) || !this.outputs.has(source)) continue
        const left = { amount, cable: undefined, scale: 1 }
        terms.push({ ...this.term(key, source, left, shape, 'leaving', sums), was: name })
        kept.push(undefined)
      }
    }
    return { terms, feeds: kept, length: terms.length }
  }

  /** Source and lasting name of a term that fades: of the copy, where the source is one that changed. */
  private leavingFrom(name: string): readonly [source: string, key: string] {
    const end = name.lastIndexOf('#'),
      source = name.slice(0, end),
      dot = source.indexOf('.')
    const copy = this.copyOf.get(source.slice(0, dot))
    return copy === undefined ? [source, name] : [`${copy}${source.slice(dot)}`, `${copy}${name.slice(dot)}`]
  }

  private oldKeys(key: string): Map<string, number> {
    const adapter = this.oldAdapters.get(key)
    if (adapter)
      return new Map(
        adapter.terms
          .filter((term) => term.role === 'steady' || term.role === 'arriving')
          .map((term) => [term.key, term.amount]),
      )
    const direct = this.oldDirect.get(key)
    return new Map(direct === undefined ? [] : [[`${direct}#0`, 1]])
  }

  private term(
    key: string,
    source: string,
    { amount, cable, scale }: Pick<Feed, 'amount' | 'cable' | 'scale'>,
    target: Shape,
    role: Role,
    sums: boolean,
  ): PlanTerm {
    const signal = this.outputs.get(source) ?? this.readParams.get(source)!
    const { voices, sides } = this.signals[signal]!
    const plain = mappingOf({ voices, sides }, target)
    const origin =
      sums && plain !== 'general' ? this.origins.get(source.slice(0, source.indexOf('.'))) : undefined
    // A single voice may be stolen too: its sum of one fades as any other.
    const mapping = origin === undefined ? plain : 'sum'
    return {
      key,
      source: signal,
      cable,
      scale,
      amount,
      mapping,
      sourceVoices: voices,
      sourceSides: sides,
      role,
      ...(origin === undefined ? {} : { steals: origin }),
    }
  }

  /** Brings what ends on an input into the input's shape; the index of the signal the module reads. */
  private connect(module: PatchModule, input: string, shape: Shape, param: number, fades: boolean): number {
    if (this.options.previous === undefined && !this.flat.feeds.has(`${module.id}.${input}`)) return NOTHING
    const { terms, feeds } = this.termsOf(module, input, shape, fades)
    if (terms.length === 0) return NOTHING
    for (const term of terms) this.signals[term.source]!.wanted = true
    const [only] = terms
    const plain =
      param < 0 &&
      terms.length === 1 &&
      only!.amount === 1 &&
      only!.mapping === 'same' &&
      only!.cable === undefined &&
      only!.role === 'steady'
    const order = (at: number): number => feeds[at]?.order ?? Number.MAX_SAFE_INTEGER
    const name = (at: number): string => feeds[at]?.name ?? ''
    if (plain) {
      const readers = this.read(module.id, input, only!.source, false)
      for (const reader of readers)
        this.links.push({ to: reader, order: order(0), term: only!, name: name(0) })
      return only!.source
    }
    const key = `${module.id}.${input}`
    const signal = this.readParams.get(key) ?? this.addSignal(`>${key}`, shape, 'adapter')
    const index =
      this.adapters.push({
        key,
        signal,
        voices: shape.voices,
        sides: shape.sides,
        terms,
        param,
        fades: terms.some((term) => term.role === 'leaving' || term.role === 'arriving'),
      }) - 1
    const node = this.addNode({ kind: 'adapter', adapter: index }, -1, undefined, 'adapter')
    this.writers.set(signal, node)
    terms.forEach((term, at) => this.links.push({ to: node, order: order(at), term, name: name(at) }))
    this.read(module.id, input, signal)
    return signal
  }

  /** Notes which stages of a module read an input; by default orders them after the signal's writer. */
  private read(id: string, input: string, signal: number, ordered = true): number[] {
    const nodes = this.nodesOf
      .get(id)!
      .filter(({ stage }) => !stage.reads || stage.reads.includes(input))
      .map(({ node }) => node)
    for (const node of nodes) {
      this.readers.push({ node, module: id, input, signal })
      if (ordered) this.fixed[this.writers.get(signal)!]!.push(node)
    }
    return nodes
  }

  /** Holds a cable back by one sample: a unit delay of the compiler's own between source and reader. */
  private cut(cable: { from: number; to: number; term: PlanTerm; name: string }): void {
    const source = this.signals[cable.term.source]!
    const id = `~${source.key}`
    let placed = this.nodesOf.get(id)
    if (!placed) {
      const entry = this.catalogue.get('unitdelay')!
      const out = this.addSignal(`${id}.out`, source, 'output')
      this.signals[out]!.wanted = true
      const index =
        this.modules.push({
          id,
          type: 'unitdelay',
          voices: source.voices,
          sides: source.sides,
          fedVoices: source.voices,
          seed: 0,
          auxBytes: 0,
          settings: [],
          inputs: [[entry.slots.inputs.get('in')!, cable.term.source]],
          outputs: [[entry.slots.outputs.get('out')!, out]],
        }) - 1
      placed = entry.description.stages!.map((stage) => ({
        stage,
        node: this.addNode(
          { kind: 'module', module: index, call: `unitdelay.${stage.name}` },
          index,
          stage,
          'unitdelay',
        ),
      }))
      this.nodesOf.set(id, placed)
      this.outputs.set(`${id}.out`, out)
      const [read, write] = placed
      this.writers.set(out, read!.node)
      this.fixed[read!.node]!.push(write!.node)
      this.fixed[cable.from]!.push(write!.node)
      this.delayed.push([write!.node, read!.node])
    }
    const out = this.outputs.get(`${id}.out`)!
    this.fixed[this.writers.get(out)!]!.push(cable.to)
    const node = this.nodes[cable.to]!
    if (node.op.kind === 'adapter') {
      cable.term.source = out
    } else {
      // A direct connection: the module reads the unit delay instead.
      const module = this.modules[node.module]!
      const inputs = module.inputs.map(
        ([slot, signal]) =>
          [
            slot,
            signal === cable.term.source &&
            this.readers.some(
              (reader) =>
                reader.node === cable.to &&
                reader.signal === signal &&
                this.slotOf(module, reader.input) === slot &&
                this.nameOf(module, reader.input) === cable.name,
            )
              ? out
              : signal,
          ] as const,
      )
      this.modules[node.module] = { ...module, inputs }
    }
  }

  private slotOf(module: PlanModule, input: string): number {
    return this.catalogue.get(module.type)!.slots.inputs.get(input)!
  }
  private nameOf(module: PlanModule, input: string): string {
    return this.flat.feeds.get(`${module.id}.${input}`)?.[0]?.name ?? ''
  }

  private orderOps(): { ops: PlanOp[]; loops: LoopReport[] } {
    // Set values are written before anything runs: nothing to wait for.
    const cables = this.links.flatMap((link) => {
      const from = this.writers.get(link.term.source)
      return from === undefined ? [] : [{ ...link, from }]
    })
    const closing = closingCables(this.nodes.length, this.fixed, cables)
    const cut = new Set(closing)
    const closingAt = new Map<number, string[]>()
    for (const cable of closing) {
      this.cut(cable)
      closingAt.set(cable.to, [...(closingAt.get(cable.to) ?? []), cable.name])
    }
    const edges = this.fixed.map((list) => [...list])
    for (const cable of cables) if (!cut.has(cable)) edges[cable.from]!.push(cable.to)
    const joined = edges.map((list) => [...list])
    for (const [from, to] of this.delayed) joined[from]!.push(to)
    const { members } = components(this.nodes.length, joined)
    const ops: PlanOp[] = [],
      loops: LoopReport[] = [],
      looping = new Set<number>()
    // Components come sources first; among independent ones the file's order keeps the plan stable.
    for (const group of members) {
      const isLoop = group.length > 1
      const order = topological(group, edges)
      const body = order.map((node) => this.nodes[node]!)
      if (!isLoop) {
        ops.push(body[0]!.op)
        continue
      }
      for (const node of order) looping.add(node)
      const probes = body
        .filter(({ stage }) => stage?.reportsDelay)
        .map(({ module, stage, type }) => ({ module, call: `${type}.${stage!.name}Least` }))
      ops.push({ kind: 'loop', probes, body: body.map(({ op }) => op) })
      const names = [
        ...new Set(body.filter(({ module }) => module >= 0).map(({ module }) => this.modules[module]!)),
      ]
      const real = names.filter((module) => module.type !== 'unitdelay')
      const held = names.flatMap((module) => this.flat.held.get(module.id) ?? [])
      if (real.length > 1 || names.length > real.length || this.feedsItself(real[0]!)) {
        loops.push({
          modules: [
            ...new Set([...real.map((module) => module.id), ...held.flatMap((item) => item.modules)]),
          ],
          delays: real
            .filter((module) =>
              this.catalogue.get(module.type)!.description.stages?.some((stage) => stage.reportsDelay),
            )
            .map((module) => module.id),
          cut: [...order.flatMap((node) => closingAt.get(node) ?? []), ...held.map((item) => item.name)],
        })
      }
    }
    this.markLoops(looping)
    return { ops, loops }
  }

  private feedsItself(module: PlanModule): boolean {
    return [...this.catalogue.get(module.type)!.slots.inputs.keys()].some((input) =>
      this.flat.feeds.get(`${module.id}.${input}`)?.some((feed) => feed.module === module.id),
    )
  }

  /** Signals written inside a loop are written frame by frame. */
  private markLoops(loops: ReadonlySet<number>): void {
    for (const [signal, node] of this.writers) if (loops.has(node)) this.signals[signal]!.inLoop = true
  }
}
