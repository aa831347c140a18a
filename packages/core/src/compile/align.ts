/**
 * Where paths meet of which one is late, the others are held back as long: at inputs where several cables add, at modules
 * whose inputs do, and at the outputs, which are heard together. Never inside a loop: there, time is what the loop says.
 */
import { type Catalogue, partOf } from '../catalogue.ts'
import { components } from '../patch/graph.ts'
import type { PatchModule } from '../patch/types.ts'
import type { FedInput, FlatPatch } from './flatten.ts'
import { type Form, formOf } from './form.ts'
import type { Feed } from './gathering.ts'
import { contextOf } from './shapes.ts'

/** A path that is held back. */
export interface HeldBack {
  /** `module.port` it comes from, and where it ends. */
  readonly from: string
  readonly to: string
  readonly samples: number
}

/** By where they end, then by where they come from: a patch that was amended lists inputs in another order. */
const inPlace = (a: HeldBack, b: HeldBack): number =>
  a.to === b.to ? (a.from < b.from ? -1 : 1) : a.to < b.to ? -1 : 1

export interface Latency {
  /** Samples by which the outputs are late. */
  readonly samples: number
  readonly heldBack: readonly HeldBack[]
}

export interface Aligned {
  readonly flat: FlatPatch
  readonly latency: Latency
}

const NONE: Latency = { samples: 0, heldBack: [] }
const known = new WeakMap<FlatPatch, { readonly sampleRate: number; readonly aligned: Aligned }>()

/** Samples by which a module's outputs are late, as it is set. */
export const latencyOf = (module: PatchModule, catalogue: Catalogue, sampleRate: number): number =>
  catalogue.get(module.type)!.description.latency?.(contextOf(module, catalogue, sampleRate)) ?? 0

/** Is a module, by its id, one that holds a path back? */
export const holdsBack = (id: string): boolean => id.startsWith('~late:')

/** Once for a flat patch; the very same one where nothing is late. */
export const align = (flat: FlatPatch, catalogue: Catalogue, sampleRate: number): Aligned => {
  const before = known.get(flat)
  if (before?.sampleRate === sampleRate) return before.aligned
  const own = flat.modules.map((module) => latencyOf(module, catalogue, sampleRate))
  const aligned = own.some((samples) => samples > 0)
    ? new Aligning(flat, catalogue, own).run()
    : { flat, latency: NONE }
  known.set(flat, { sampleRate, aligned })
  return aligned
}

type Ways = ReadonlyMap<string, PatchModule>
const delays = new WeakMap<PatchModule, Map<string, PatchModule>>()
const feedsThrough = new WeakMap<Feed, Map<number, Feed>>()

/** The module that holds an output back, the same one from patch to patch. */
const delayOf = (source: PatchModule, port: string, samples: number, type: string): PatchModule => {
  const own = delays.get(source) ?? new Map<string, PatchModule>()
  delays.set(source, own)
  const id = `~late:${source.id}:${port}:${samples}`
  const made = own.get(id) ?? { id, type, params: { samples } }
  own.set(id, made)
  return made
}

/** A feed that comes from there instead. */
const through = (feed: Feed, { id }: PatchModule, samples: number): Feed => {
  const own = feedsThrough.get(feed) ?? new Map<number, Feed>()
  feedsThrough.set(feed, own)
  const from = `${id}.out`
  const made = own.get(samples) ?? { ...feed, from, module: id, port: 'out', lasting: `${from}#0` }
  own.set(samples, made)
  return made
}

const ownFeeds = new WeakMap<PatchModule, FedInput>()
/** What ends on a module of the compiler's own that holds back: one output as it is, the same from patch to patch. */
const fedBy = (delay: PatchModule, { from, module, port, order, name }: Feed): FedInput => {
  const known = ownFeeds.get(delay)
  if (known) return known
  const feed = {
    from,
    module,
    port,
    amount: 1,
    cable: undefined,
    scale: 1,
    order,
    name,
    lasting: `${from}#0`,
    base: false,
  }
  const made = { input: 'in', feeds: [feed] }
  ownFeeds.set(delay, made)
  return made
}

/** One patch in which something is late. Nodes are stages of modules: what one stage reads does not delay another. */
class Aligning {
  private readonly forms: readonly Form[]
  /** First node of each module. */
  private readonly first: number[] = []
  private readonly number = new Map<string, number>()
  /** Component of every node, and by component how late what comes in is, and whether it is a loop. */
  private readonly of: Int32Array
  private readonly late: number[]
  private readonly isLoop: boolean[]
  private readonly delays = new Map<string, PatchModule>()
  private readonly fed = new Map<string, FedInput[]>()
  private readonly feeds: Map<string, readonly Feed[]>
  private readonly heldBack: HeldBack[] = []

  constructor(
    private readonly flat: FlatPatch,
    private readonly catalogue: Catalogue,
    private readonly own: readonly number[],
  ) {
    this.forms = flat.modules.map(({ type }) => formOf(catalogue.get(type)!))
    this.feeds = new Map(flat.feeds)
    let nodes = 0
    flat.modules.forEach(({ id }, at) => {
      this.number.set(id, at)
      this.first.push(nodes)
      nodes += this.forms[at]!.stages.length
    })
    const edges = this.edges(nodes)
    const { of, members } = components(nodes, edges)
    this.of = of
    this.isLoop = members.map((group) => group.length > 1 || edges[group[0]!]!.includes(group[0]!))
    this.late = members.map(() => 0)
    this.measure(members)
  }

  private edges(nodes: number): number[][] {
    const edges = Array.from({ length: nodes }, (): number[] => [])
    this.flat.modules.forEach(({ id }, at) => {
      const first = this.first[at]!,
        { stages } = this.forms[at]!
      stages.forEach(({ reportsDelay }, n) => {
        if (n > 0) edges[first + n - 1]!.push(first + n)
        if (reportsDelay && stages.length > 1) edges[first + stages.length - 1]!.push(first + n)
      })
      for (const { input, feeds } of this.flat.fed.get(id) ?? [])
        for (const feed of feeds) {
          const from = this.writerOf(feed)
          if (from >= 0) for (const stage of this.readersOf(at, input)) edges[from]!.push(first + stage)
        }
    })
    return edges
  }

  /** Node that writes what a feed brings; −1 where it is a parameter. */
  private writerOf({ module, port }: Feed): number {
    const at = this.number.get(module)
    if (at === undefined) return -1
    const output = this.forms[at]!.outputs.find((item) => item.port.name === port)
    return output && output.stage >= 0 ? this.first[at]! + output.stage : -1
  }

  private readersOf(at: number, input: string): readonly number[] {
    const { inputs, params } = this.forms[at]!
    return (
      (inputs.find(({ name }) => name === input) ?? params.find(({ name }) => name === input))?.stages ?? []
    )
  }

  /** Inputs by which a module's outputs are late: its main one, all that it adds, or all there are. */
  private carries(at: number, input: string): boolean {
    const { description } = this.catalogue.get(this.flat.modules[at]!.type)!
    const port = description.inputs.find(({ name }) => name === input)
    if (!port || (port.kind !== 'audio' && port.kind !== 'control')) return false
    if (description.adds) return true
    if (description.bypass) return input === description.bypass.from
    return port.kind === 'audio' || description.inputs.every(({ kind }) => kind !== 'audio')
  }

  /** Samples by which what a feed brings is late. */
  private latenessOf(feed: Feed): number {
    const node = this.writerOf(feed)
    if (node < 0) return 0
    const component = this.of[node]!
    return this.late[component]! + (this.isLoop[component] ? 0 : this.own[this.number.get(feed.module)!]!)
  }

  /** How late all is, sources first. */
  private measure(members: readonly (readonly number[])[]): void {
    const moduleOf = this.forms.flatMap(({ stages }, at) => stages.map(() => at))
    members.forEach((group, component) => {
      for (const node of group) {
        const at = moduleOf[node]!,
          { id } = this.flat.modules[at]!,
          stage = node - this.first[at]!
        // A stage comes after the one before it.
        if (stage > 0) this.note(component, this.late[this.of[node - 1]!]!)
        for (const { input, feeds } of this.flat.fed.get(id) ?? [])
          if (this.carries(at, input) && this.readersOf(at, input).includes(stage))
            for (const feed of feeds) this.note(component, this.latenessOf(feed))
        for (const feed of this.flat.ringing.get(id) ?? []) this.note(component, this.latenessOf(feed))
      }
    })
  }

  private note(component: number, samples: number): void {
    this.late[component] = Math.max(this.late[component]!, samples)
  }

  /** Feeds of an input, those that are less late than `latest` held back; the same ones where nothing is. */
  private held(
    to: string,
    feeds: readonly Feed[],
    latest: number,
    inside: ReadonlySet<number>,
  ): readonly Feed[] {
    const made = feeds.map((feed) => {
      const samples = latest - this.latenessOf(feed),
        node = this.writerOf(feed)
      if (samples <= 0 || node < 0 || inside.has(this.of[node]!)) return feed
      const source = this.flat.byId.get(feed.module)!
      const delay = delayOf(source, feed.port, samples, partOf(this.catalogue, 'align').description.type)
      // One that is there for its fade does.
      if (!this.delays.has(delay.id) && !this.flat.byId.has(delay.id)) {
        this.delays.set(delay.id, delay)
        const input = fedBy(delay, feed)
        this.fed.set(delay.id, [input])
        this.feeds.set(`${delay.id}.in`, input.feeds)
      }
      this.heldBack.push({ from: feed.from, to, samples })
      return through(feed, delay, samples)
    })
    return made.some((feed, n) => feed !== feeds[n]) ? made : feeds
  }

  private latestOf(feeds: readonly Feed[]): number {
    return feeds.reduce((most, feed) => Math.max(most, this.latenessOf(feed)), 0)
  }

  run(): Aligned {
    const { flat } = this
    const isOutput = (at: number): boolean =>
      this.catalogue.get(flat.modules[at]!.type)!.description.role === 'output'
    const outputs = flat.modules.flatMap(({ id }, at) => (isOutput(at) ? (flat.fed.get(id) ?? []) : []))
    const samples = outputs.reduce((most, { feeds }) => Math.max(most, this.latestOf(feeds)), 0)
    flat.modules.forEach(({ id, type }, at) => {
      const inputs = flat.fed.get(id)
      if (!inputs) return
      const first = this.first[at]!
      const loops = new Set(
        this.forms[at]!.stages.map((_, stage) => this.of[first + stage]!).filter((of) => this.isLoop[of]),
      )
      const met = this.catalogue.get(type)!.description.adds
        ? this.latestOf(inputs.flatMap(({ input, feeds }) => (this.carries(at, input) ? feeds : [])))
        : 0
      const list = inputs.map((item) => {
        const { input, feeds } = item
        if (!this.isPort(at, input)) return item
        const latest = isOutput(at)
          ? samples
          : this.carries(at, input)
            ? Math.max(met, this.latestOf(feeds))
            : this.latestOf(feeds)
        const now = this.held(`${id}.${input}`, feeds, latest, loops)
        if (now === feeds) return item
        this.feeds.set(`${id}.${input}`, now)
        return { input, feeds: now }
      })
      this.fed.set(id, list.some((item, n) => item !== inputs[n]) ? list : (inputs as FedInput[]))
    })
    const latency = { samples, heldBack: this.heldBack.sort(inPlace) }
    if (this.delays.size === 0) return { flat, latency }
    // By their ids: a patch that was amended lists inputs in another order than one that is made from nothing.
    const delays = [...this.delays.values()].sort((a, b) => (a.id < b.id ? -1 : 1))
    const modules = [...flat.modules, ...delays]
    const byId: Ways = new Map(modules.map((module) => [module.id, module]))
    return { flat: { ...flat, modules, byId, feeds: this.feeds, fed: this.fed }, latency }
  }

  /** Is this an input of sound or control, where cables add? */
  private isPort(at: number, input: string): boolean {
    const kind = this.catalogue
      .get(this.flat.modules[at]!.type)!
      .description.inputs.find(({ name }) => name === input)?.kind
    return kind === 'audio' || kind === 'control'
  }
}
