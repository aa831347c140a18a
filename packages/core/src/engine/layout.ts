import * as abi from '../kernels/abi.ts'
import { CATALOGUE } from '../catalogue.ts'
import { KERNEL_NAMES } from '../generated/kernelNames.ts'
import {
  type Plan,
  type PlanModule,
  type PlanOp,
  type PlanParam,
  type PlanSignal,
  type PlanTerm,
  NOTHING,
  ONE,
} from '../compile/plan.ts'
import { kindOf } from '../describe/kinds/index.ts'
import type { ModuleDescription } from '../describe/types.ts'
import type { NoteSource } from '../notes/source.ts'
import { type Delta, Image, type KernelFacts, packed, Work } from './delta.ts'
import { type Block, Memory } from './memory.ts'

export type { Delta, KernelFacts } from './delta.ts'
import { append } from '../units/append.ts'

const MODES = {
  linear: abi.MODE_LINEAR,
  octaves: abi.MODE_OCTAVES,
  time: abi.MODE_TIME,
  switch: abi.MODE_SWITCH,
} as const
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
/** Changes of set values and amounts take this long. */
export const SMOOTHING_SECONDS = 0.015

const groupsOf = (shape: { readonly voices: number; readonly sides: number }): number =>
  Math.ceil((shape.voices * shape.sides) / 4)

interface Kept {
  readonly block: Block
  readonly groups: number
  readonly bytesPerGroup: number
}
interface Amount {
  readonly address: number
  amount: number
  readonly scale: number
}

/**
 * Gives every part of a plan its place in memory, keeping the place (and so the state) of whatever was there before,
 * and works out the difference as a Delta. Runs beside the audio thread, never in it.
 */
export class Layout {
  private readonly memory: Memory
  private readonly smoothing: number
  /** What lasts from plan to plan, by key. */
  private kept = new Map<string, Kept>()
  private bases = new Map<string, number>()
  private amounts = new Map<string, Amount>()
  /** The same by where a term stands. */
  private termsBefore = new Map<string, Amount>()
  /** The same by cable. */
  private amountsOf = new Map<string, Amount[]>()
  /** Blocks of the running plan only. */
  private passing: Block[] = []
  private doomed: Block[] = []
  private plan: Plan | undefined
  private signalAddresses: number[] = []
  /** Places of the plan's signals by key. */
  private signalNumbers: ReadonlyMap<string, number> = new Map()
  private settings = new Map<string, { address: number; whole: boolean }>()
  private readonly functionOf: ReadonlyMap<string, number>
  private watched = new Map<string, Block>()
  private readonly tables = new Map<Float32Array, Block>()
  private readonly sentWords = new Map<number, number>()

  constructor(
    private readonly facts: KernelFacts,
    sampleRate: number,
  ) {
    this.memory = new Memory(facts.heapBase)
    this.smoothing = Math.round(SMOOTHING_SECONDS * sampleRate)
    this.functionOf = new Map(KERNEL_NAMES.map((name, index) => [name, facts.functions[index]!]))
  }

  get memoryInUse(): number {
    return this.memory.highWater - this.memory.freeBytes
  }

  /** Address of a parameter's record, or undefined. */
  paramAddress(key: string): number | undefined {
    return this.kept.get(`p:${key}`)?.block.address
  }
  /** Address and kind of a setting that may change while playing (choices). */
  settingAddress(key: string): { readonly address: number; readonly whole: boolean } | undefined {
    return this.settings.get(key)
  }
  /** The terms a cable's amount appears in, and what it is multiplied by on the way. */
  termAddresses(cable: string): readonly { readonly address: number; readonly scale: number }[] {
    return this.amountsOf.get(cable) ?? []
  }
  /** Address and lanes of an output's, adapter's or set value's signal. */
  signal(
    key: string,
  ): { readonly address: number; readonly voices: number; readonly sides: number } | undefined {
    const index = this.signalNumbers.get(key)
    if (index === undefined) return undefined
    const { voices, sides } = this.plan!.signals[index]!
    return { address: this.signalAddresses[index]!, voices, sides }
  }
  /** Remembers a value set while playing, so that the next plan does not take it for a change. */
  noteBase(key: string, value: number): void {
    this.bases.set(key, value)
  }
  noteAmount(cable: string, amount: number): void {
    for (const entry of this.amountsOf.get(cable) ?? []) entry.amount = amount * entry.scale
  }

  /** A ring for a watched signal: 512 floats, then min, max, last. */
  watchRing(key: string): { readonly address: number; readonly memoryBytes: number } {
    let block = this.watched.get(key)
    if (!block) {
      block = this.memory.allocate(2064)
      this.watched.set(key, block)
    }
    return { address: block.address, memoryBytes: this.memory.highWater }
  }

  next(plan: Plan): Delta {
    for (const block of this.doomed) this.memory.release(block)
    this.doomed = []
    const work = new Work()
    const before = this.kept
    this.kept = new Map()
    const passing = this.passing
    this.passing = []
    const signals = plan.signals.map((signal, index) =>
      signal ? this.placeSignal(signal, plan.wanted[index] === 1, plan.inLoop[index] === 1, before, work) : 0,
    )
    const params = plan.params.map((param) => this.placeParam(param, signals, before, work))
    const memories = plan.modules.map((module) => this.placeMemory(module, before, work))
    const { adapters, amounts } = this.placeAdapters(plan, signals, params, before, work)
    const instances = plan.modules.map((module, index) =>
      this.placeModule(plan, module, memories[index]!, signals, work),
    )
    const program = this.placeProgram(plan, instances, adapters, work)
    const adapterList = this.placeList(adapters, work)
    const instanceList = this.placeList(instances, work)
    const moving = this.take(4 * plan.params.length + 64, work)
    const hadOutput = this.plan?.modules.some(hasRole('output')) ?? false
    this.plan = plan
    this.signalAddresses = signals
    this.signalNumbers = numbersOf(plan.signals)
    for (const [key, { block }] of before) if (!this.kept.has(key)) this.doomed.push(block)
    for (const [table, block] of this.tables)
      if (!work.tables.has(table)) {
        this.doomed.push(block)
        this.tables.delete(table)
      }
    append(this.doomed, passing)
    append(this.doomed, work.replaced)
    return {
      memoryBytes: this.memory.highWater,
      zero: Uint32Array.from(work.zero.flat()),
      ...packed(work.write),
      copies: Uint32Array.from(work.copy.flat()),
      words: this.changedWords(work.words),
      statics: Uint32Array.from([...work.freshStatics, ...work.statics]),
      freshStatics: work.freshStatics.length,
      params: work.params,
      amounts,
      program,
      adapters: adapterList,
      instances: instanceList,
      moving: moving.address,
      sounding: this.soundingOf(plan),
      notes: plan.modules.flatMap((module, index) =>
        hasRole('notes')(module) ? [this.noteSource(module, instances[index]!)] : [],
      ),
      inputs: this.auxOf(plan.modules.filter(hasRole('input'))),
      outputPairs: this.pairsOf(plan),
      fadeIn: !hadOutput && plan.modules.some(hasRole('output')),
      tempo: plan.tempo,
      tuning: plan.tuning,
    }
  }

  /** Words that differ from what was last sent to their address. */
  private changedWords(words: readonly (readonly [number, number])[]): Uint32Array {
    const changed: number[] = []
    for (const [address, value] of words) {
      if (this.sentWords.get(address) === value) continue
      this.sentWords.set(address, value)
      changed.push(address, value)
    }
    return Uint32Array.from(changed)
  }

  private forgetWords(address: number, bytes: number): void {
    for (let at = address; at < address + bytes; at += 4) this.sentWords.delete(at)
  }

  /** Marks an output as read by a probe, or no longer; the word to write now, if any. */
  setWatched(key: string, on: boolean): readonly [address: number, value: number] | undefined {
    if (on) this.watchRing(key)
    else {
      const ring = this.watched.get(key)
      if (ring) this.memory.release(ring)
      this.watched.delete(key)
    }
    const index = this.signalNumbers.get(key)
    if (index === undefined) return undefined
    const address = this.signalAddresses[index]! + abi.SIGNAL_WANTED
    const value = on || this.plan!.wanted[index] ? 1 : 0
    this.sentWords.set(address, value)
    return [address, value]
  }

  /** Memory that belongs to this plan only. */
  private take(bytes: number, work: Work): Block {
    const block = this.memory.allocate(bytes)
    this.passing.push(block)
    if (block.dirty) work.zero.push([block.address, block.bytes])
    return block
  }

  /** Memory that lasts as long as its key does; `fresh` when there was none of this size before. */
  private keep(
    key: string,
    bytesPerGroup: number,
    groups: number,
    before: Map<string, Kept>,
    work: Work,
  ): { address: number; fresh: boolean } {
    const old = before.get(key)
    if (old && old.bytesPerGroup === bytesPerGroup && old.groups === groups) {
      this.kept.set(key, old)
      return { address: old.block.address, fresh: false }
    }
    const block = this.memory.allocate(bytesPerGroup * groups)
    if (block.dirty) work.zero.push([block.address, block.bytes])
    this.kept.set(key, { block, groups, bytesPerGroup })
    if (old) {
      // Another number of voices: those that remain keep their state.
      if (old.bytesPerGroup === bytesPerGroup)
        work.copy.push([old.block.address, block.address, bytesPerGroup * Math.min(groups, old.groups)])
      work.replaced.push(old.block)
    }
    return { address: block.address, fresh: true }
  }

  private placeSignal(
    signal: PlanSignal,
    wanted: boolean,
    inLoop: boolean,
    before: Map<string, Kept>,
    work: Work,
  ): number {
    const set = signal.origin === 'set'
    const groups = set ? 1 : groupsOf(signal)
    const { address, fresh } = this.keep(
      `s:${signal.key}`,
      abi.SIGNAL_BYTES + groups * abi.GROUP_BYTES,
      1,
      before,
      work,
    )
    if (fresh) {
      this.forgetWords(address, abi.SIGNAL_BYTES)
      work.freshSignals.add(address)
      const image = work.image(address, abi.SIGNAL_BYTES)
      image.u32(abi.SIGNAL_DATA, address + abi.SIGNAL_BYTES)
      image.u32(abi.SIGNAL_GROUP_STRIDE, set ? 0 : abi.GROUP_BYTES)
      image.u32(abi.SIGNAL_CABLED, set ? 0 : 1)
      image.u32(abi.SIGNAL_GROUPS, groups)
    }
    work.words.push(
      [address + abi.SIGNAL_WANTED, wanted || this.watched.has(signal.key) ? 1 : 0],
      [address + abi.SIGNAL_FIXED, inLoop ? 1 : 0],
    )
    // Inside loops strides must be 16 before the first run: readers may come before writers.
    if (inLoop)
      for (let g = 0; g < groups; g += 1) work.words.push([address + abi.SIGNAL_STRIDES + 4 * g, 16])
    return address
  }

  private placeParam(param: PlanParam, signals: number[], before: Map<string, Kept>, work: Work): number {
    const { address, fresh } = this.keep(`p:${param.key}`, abi.PARAM_BYTES, 1, before, work)
    const signal = signals[param.signal]!
    if (fresh) {
      this.forgetWords(address, abi.PARAM_BYTES)
      const image = work.image(address, abi.PARAM_BYTES)
      image.f32(abi.PARAM_BASE, param.base)
      image.u32(abi.PARAM_MODE, MODES[param.mode])
      image.f32(abi.PARAM_MIN, param.min)
      image.f32(abi.PARAM_MAX, param.max)
      image.f32(abi.PARAM_LEAST, param.least)
      image.u32(abi.PARAM_SMOOTHING, param.exact ? 0 : this.smoothing)
    } else if (this.bases.get(param.key) !== param.base) {
      work.params.push([address, param.base])
    }
    const original = fresh && param.copyOf !== undefined ? before.get(`p:${param.copyOf}`) : undefined
    // The ramp stands at the head of the record: the copy goes on from there.
    if (original) work.copy.push([original.block.address, address, abi.RAMP_BYTES])
    this.bases.set(param.key, param.base)
    work.words.push(
      [address + abi.PARAM_SIGNAL, signal],
      [address + abi.PARAM_FACTOR, param.factor === NOTHING ? 0 : signals[param.factor]!],
      [address + abi.PARAM_MODULATED, param.modulated ? 1 : 0],
    )
    // New set values are written once after the swap, by listing them: see `Runtime.swap`.
    if (!param.modulated) (work.freshSignals.has(signal) ? work.freshStatics : work.statics).push(address)
    return address
  }

  private placeAdapters(
    plan: Plan,
    signals: number[],
    params: number[],
    before: Map<string, Kept>,
    work: Work,
  ): { adapters: number[]; amounts: [number, number][] } {
    const changed: [number, number][] = []
    const amounts = new Map<string, Amount>(),
      amountsOf = new Map<string, Amount[]>(),
      termsNow = new Map<string, Amount>()
    const adapters = plan.adapters.map((adapter) => {
      const block = this.take(abi.ADAPTER_BYTES + adapter.terms.length * abi.TERM_BYTES, work)
      const image = work.image(block.address, block.bytes)
      image.u32(abi.ADAPTER_SIGNAL, signals[adapter.signal]!)
      image.u32(abi.ADAPTER_GROUPS, groupsOf(adapter))
      image.u32(abi.ADAPTER_VOICES, adapter.voices)
      image.u32(abi.ADAPTER_SIDES, adapter.sides)
      image.u32(abi.ADAPTER_TERM_COUNT, adapter.terms.length)
      image.u32(abi.ADAPTER_TERMS, block.address + abi.ADAPTER_BYTES)
      image.u32(abi.ADAPTER_PARAM, adapter.param < 0 ? 0 : params[adapter.param]!)
      image.u32(abi.ADAPTER_FADE, adapter.fades ? abi.FADE_FRAMES : 0)
      adapter.terms.forEach((term, index) => {
        const at = abi.ADAPTER_BYTES + index * abi.TERM_BYTES
        const key = `${term.cable ?? ''}\n${adapter.key}\n${term.key}`
        const old = this.amounts.get(key) ?? this.termsBefore.get(`${adapter.key}\n${term.was ?? ''}`)
        writeTerm(image, at, term, signals[term.source]!, old?.amount ?? term.amount)
        if (term.steals !== undefined) {
          const notes = plan.modules.find((module) => module.id === term.steals)!
          image.u32(
            at + abi.TERM_STEALS,
            this.kept.get(`a:${memoryKey(notes)}`)!.block.address + abi.CHANNEL_STEALS,
          )
          image.u32(
            at + abi.TERM_HELD,
            this.keep(
              `h:${adapter.key}\n${term.key}`,
              16,
              Math.ceil((term.sourceVoices * term.sourceSides) / 4),
              before,
              work,
            ).address,
          )
        }
        // A ramp on its way goes on; what leaves keeps what it had.
        if (old)
          work.copy.push([
            old.address + abi.TERM_AMOUNT,
            block.address + at + abi.TERM_AMOUNT,
            abi.RAMP_BYTES,
          ])
        const moves = old !== undefined && term.was === undefined && old.amount !== term.amount
        if (moves) changed.push([block.address + at, term.amount])
        const amount = { address: block.address + at, amount: term.amount, scale: term.scale }
        amounts.set(key, amount)
        termsNow.set(`${adapter.key}\n${term.key}`, amount)
        if (term.cable !== undefined) {
          const list = amountsOf.get(term.cable)
          if (list) list.push(amount)
          else amountsOf.set(term.cable, [amount])
        }
      })
      return block.address
    })
    this.amounts = amounts
    this.termsBefore = termsNow
    this.amountsOf = amountsOf
    return { adapters, amounts: changed }
  }

  /** State, further memory and table of a module. */
  private placeMemory(
    module: PlanModule,
    before: Map<string, Kept>,
    work: Work,
  ): { state: number; aux: number; table: number } {
    const { slots } = CATALOGUE.get(module.type)!
    const groups = groupsOf(module)
    const stateKey = memoryKey(module)
    const state =
      slots.stateVectors > 0 ? this.keep(stateKey, slots.stateVectors * 16, groups, before, work).address : 0
    const original = module.copyOf === undefined ? undefined : memoryKey({ ...module, id: module.copyOf })
    const auxGroups = module.auxBytes % groups === 0 ? groups : 1
    const aux =
      module.auxBytes > 0
        ? this.keep(`a:${stateKey}`, module.auxBytes / auxGroups, auxGroups, before, work).address
        : 0
    if (original !== undefined) {
      copyOver(before.get(original), this.kept.get(stateKey), work)
      copyOver(before.get(`a:${original}`), this.kept.get(`a:${stateKey}`), work)
    }
    return { state, aux, table: module.table ? this.placeTable(module.table, work) : 0 }
  }

  /** A table is written once for all modules that read the same. */
  private placeTable(table: Float32Array, work: Work): number {
    let block = this.tables.get(table)
    if (!block) {
      block = this.memory.allocate(table.byteLength)
      work
        .image(block.address, table.byteLength)
        .bytes.set(new Uint8Array(table.buffer, table.byteOffset, table.byteLength))
      this.tables.set(table, block)
    }
    work.tables.add(table)
    return block.address
  }

  private placeModule(
    plan: Plan,
    module: PlanModule,
    { state, aux, table }: { state: number; aux: number; table: number },
    signals: number[],
    work: Work,
  ): number {
    const { slots } = CATALOGUE.get(module.type)!
    const groups = groupsOf(module)
    const sources = [
      ...new Set(
        module.inputs.flatMap(([, signal]) =>
          signal >= 0 && plan.signals[signal]!.origin !== 'set' ? [signals[signal]!] : [],
        ),
      ),
    ]
    const block = this.take(slots.instanceBytes + 4 * sources.length, work)
    const image = work.image(block.address, slots.instanceBytes + 4 * sources.length)
    image.u32(abi.INSTANCE_SOURCES, block.address + slots.instanceBytes)
    image.u32(abi.INSTANCE_SOURCE_COUNT, sources.length)
    sources.forEach((signal, index) => {
      image.u32(slots.instanceBytes + 4 * index, signal)
    })
    image.u32(abi.INSTANCE_GROUPS, groups)
    image.u32(abi.INSTANCE_VOICES, module.voices)
    image.u32(abi.INSTANCE_SIDES, module.sides)
    image.u32(abi.INSTANCE_STATE, state)
    image.u32(abi.INSTANCE_SEED, module.seed)
    image.u32(abi.INSTANCE_AUX, aux)
    image.u32(abi.INSTANCE_AUX_BYTES, module.auxBytes)
    image.u32(abi.INSTANCE_TABLE, table)
    image.u32(abi.INSTANCE_TABLE_WORDS, module.table?.length ?? 0)
    image.u32(abi.INSTANCE_INPUT_COUNT, slots.inputs.size)
    image.u32(abi.INSTANCE_FED_VOICES, module.fedVoices)
    image.u32(abi.INSTANCE_FLUSHED, slots.flushedVectors)
    image.u32(abi.INSTANCE_STATE_VECTORS, slots.stateVectors)
    image.u32(abi.INSTANCE_OUTPUTS, block.address + (module.outputs[0]?.[0] ?? 0))
    image.u32(abi.INSTANCE_OUTPUT_COUNT, module.outputs.length)
    for (const slot of slots.inputs.values()) image.u32(slot, this.facts.zeroSignal)
    for (const [slot, signal] of module.inputs)
      image.u32(
        slot,
        signal === NOTHING ? this.facts.zeroSignal : signal === ONE ? this.facts.oneSignal : signals[signal]!,
      )
    for (const [slot, signal] of module.outputs) image.u32(slot, signals[signal]!)
    for (const [slot, value, whole] of module.settings) {
      if (whole) image.u32(slot, value)
      else image.f32(slot, value)
    }
    const { params } = CATALOGUE.get(module.type)!
    for (const [name, slot] of slots.settings)
      this.settings.set(`${module.id}.${name}`, {
        address: block.address + slot,
        whole: kindOf(params.get(name)!).stored === 'i32',
      })
    return block.address
  }

  /** What prepares a segment that runs frame by frame, and what runs a frame of it. */
  private framesOf(call: string): [ready: number, frame: number] {
    return [
      this.functionOf.get(`${call}Ready`) ?? abi.NO_FUNCTION,
      this.functionOf.get(`${call}Frame`) ?? abi.NO_FUNCTION,
    ]
  }

  private placeProgram(
    plan: Plan,
    instances: number[],
    adapters: number[],
    work: Work,
  ): { address: number; ops: number } {
    const rows: (readonly number[])[] = []
    const [run, ready, frame] = this.facts.adapterFunctions
    const add = (op: PlanOp): void => {
      if (op.kind === 'adapter') rows.push([run, adapters[op.adapter]!, 0, 0, ready, frame])
      else if (op.kind === 'module')
        rows.push([this.functionOf.get(op.call)!, instances[op.module]!, 1, 0, ...this.framesOf(op.call)])
      else {
        rows.push([abi.OP_LOOP, 0, op.probes.length + op.body.length, op.probes.length])
        for (const probe of op.probes)
          rows.push([this.functionOf.get(probe.call)!, instances[probe.module]!, 0, 0])
        op.body.forEach(add)
      }
    }
    plan.ops.forEach(add)
    const block = this.take(Math.max(1, rows.length) * abi.OP_BYTES, work)
    const image = work.image(block.address, block.bytes)
    rows.forEach((row, index) =>
      row.forEach((word, column) => image.u32(index * abi.OP_BYTES + column * 4, word)),
    )
    return { address: block.address, ops: rows.length }
  }

  private placeList(addresses: readonly number[], work: Work): { address: number; count: number } {
    const block = this.take(4 * addresses.length + 16, work)
    const image = work.image(block.address, block.bytes)
    addresses.forEach((address, index) => image.u32(4 * index, address))
    return { address: block.address, count: addresses.length }
  }

  private noteSource(module: PlanModule, instance: number): NoteSource {
    const { slots } = CATALOGUE.get(module.type)!
    const value = (name: string): number => this.paramAddress(`${module.id}.${name}`)!
    const choice = (name: string): number => instance + slots.settings.get(name)!
    const setting = (name: string): number =>
      module.settings.find(([slot]) => slot === slots.settings.get(name))![1]
    return {
      id: module.id,
      voices: module.voices,
      aux: this.kept.get(`a:${memoryKey(module)}`)!.block.address,
      seed: module.seed,
      channel: setting('channel'),
      mpe: setting('expression') === 1,
      values: {
        lowKey: value('lowKey'),
        highKey: value('highKey'),
        lowVelocity: value('lowVelocity'),
        highVelocity: value('highVelocity'),
        velocityCurve: value('velocityCurve'),
      },
      choices: { mode: choice('mode'), priority: choice('priority'), glideWhen: choice('glideWhen') },
    }
  }

  private auxOf(modules: readonly PlanModule[]): number[] {
    return modules.map((module) => this.kept.get(`a:${memoryKey(module)}`)!.block.address)
  }

  private soundingOf(plan: Plan): Uint32Array {
    const blocks = plan.modules
      .filter((module) => CATALOGUE.get(module.type)!.description.family !== 'playing')
      .flatMap((module) => {
        const key = memoryKey(module)
        return [this.kept.get(key), this.kept.get(`a:${key}`)].flatMap((kept) =>
          kept ? [kept.block.address, kept.bytesPerGroup * kept.groups] : [],
        )
      })
    return Uint32Array.from(blocks)
  }

  private pairsOf(plan: Plan): number[] {
    const pairs = plan.modules.filter(hasRole('output')).map(({ type, settings }) => {
      const slot = CATALOGUE.get(type)!.slots.settings.get('pair')!
      return settings.find(([at]) => at === slot)![1] - 1
    })
    return [...new Set([0, ...pairs])].sort()
  }
}

/** Numbers of signals by key. */
const numbersOf = (signals: Plan['signals']): Map<string, number> => {
  const numbers = new Map<string, number>()
  signals.forEach((signal, index) => {
    if (signal) numbers.set(signal.key, index)
  })
  return numbers
}

const hasRole =
  (role: ModuleDescription['role']) =>
  ({ type }: PlanModule): boolean =>
    CATALOGUE.get(type)!.description.role === role

/** At the swap: what a block holds goes into another of the same size. */
const copyOver = (from: Kept | undefined, to: Kept | undefined, work: Work): void => {
  if (from && to && from.bytesPerGroup === to.bytesPerGroup && from.groups === to.groups)
    work.copy.push([from.block.address, to.block.address, from.bytesPerGroup * from.groups])
}

/** Under which state and further memory of a module last. */
const memoryKey = ({ id, stateOf, type, sides }: PlanModule): string => `m:${stateOf ?? id}:${type}:${sides}`

const writeTerm = (image: Image, at: number, term: PlanTerm, source: number, amount: number): void => {
  image.u32(at + abi.TERM_SOURCE, source)
  image.u32(at + abi.TERM_MAPPING, MAPPINGS[term.mapping])
  image.u32(at + abi.TERM_SOURCE_VOICES, term.sourceVoices)
  image.u32(at + abi.TERM_SOURCE_SIDES, term.sourceSides)
  image.f32(at + abi.TERM_AMOUNT, amount)
  image.u32(at + abi.TERM_ROLE, ROLES[term.role])
}
