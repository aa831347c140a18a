import * as abi from '../kernels/abi.ts'
import { CATALOGUE } from '../catalogue.ts'
import { type Plan, type PlanModule, type PlanParam, type PlanSignal, NOTHING, ONE } from '../compile/plan.ts'
import { kindOf } from '../describe/kinds/index.ts'
import { type Delta, type KernelFacts, packed, Work } from './delta.ts'
import { placeKeepers } from './guests.ts'
import { copyOver, Keeping, memoryKey } from './keeping.ts'
import { Program } from './program.ts'
import { groupsOf, Terms } from './terms.ts'
import { hasRole, toldOf } from './told.ts'
import { SMOOTHING_SECONDS } from './smoothing.ts'

export type { Delta, KernelFacts } from './delta.ts'
const { MODE_LINEAR: linear, MODE_OCTAVES: octaves, MODE_TIME: time, MODE_SWITCH } = abi
const MODES = { linear, octaves, time, switch: MODE_SWITCH } as const

/**
 * Gives every part of a plan its place in memory, keeping the place (and so the state) of whatever was there before,
 * and works out the difference as a Delta. Runs beside the audio thread, never in it.
 */
export class Layout {
  private readonly keeping: Keeping
  private readonly terms: Terms
  private readonly program: Program
  private readonly smoothing: number
  private bases = new Map<string, number>()
  private plan: Plan | undefined
  private signalAddresses: readonly number[] = []
  /** Places of the plan's signals by key. */
  private signalNumbers: ReadonlyMap<string, number> = new Map()
  private settings = new Map<string, { address: number; whole: boolean }>()
  private readonly sentWords = new Map<number, number>()

  constructor(
    private readonly facts: KernelFacts,
    sampleRate: number,
  ) {
    this.keeping = new Keeping(facts.heapBase)
    this.terms = new Terms(this.keeping)
    this.program = new Program(facts, this.keeping)
    this.smoothing = Math.round(SMOOTHING_SECONDS * sampleRate)
  }

  get memoryInUse(): number {
    return this.keeping.inUse
  }

  /** Address of a parameter's record, or undefined. */
  paramAddress(key: string): number | undefined {
    return this.keeping.at(`p:${key}`)?.block.address
  }
  /** Address and kind of a setting that may change while playing (choices). */
  settingAddress(key: string): { readonly address: number; readonly whole: boolean } | undefined {
    return this.settings.get(key)
  }
  /** The terms a cable's amount appears in, and what it is multiplied by on the way. */
  termAddresses(cable: string): readonly { readonly address: number; readonly scale: number }[] {
    return this.terms.ofCable(cable)
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
    for (const entry of this.terms.ofCable(cable)) entry.amount = amount * entry.scale
  }

  /** A ring for a watched signal, or for its right side: 512 floats, then min, max, last. */
  watchRing(
    key: string,
    side?: 'left' | 'right',
  ): { readonly address: number; readonly memoryBytes: number } {
    return { address: this.keeping.watchRing(key, side), memoryBytes: this.keeping.highWater }
  }

  next(plan: Plan): Delta {
    const { keeping, program } = this,
      work = new Work()
    keeping.begin()
    const signals = plan.signals.map((signal, index) =>
      signal ? this.placeSignal(signal, plan.wanted[index] === 1, plan.inLoop[index] === 1, work) : 0,
    )
    const params = plan.params.map((param) => this.placeParam(param, signals, work))
    const memories = plan.modules.map((module) => this.placeMemory(module, work))
    const { adapters, amounts } = this.terms.place({ plan, signals, params, work })
    const instances = plan.modules.map((module, index) =>
      this.placeModule(plan, module, memories[index]!, signals, work),
    )
    placeKeepers(plan, instances, work)
    const ops = program.placeProgram(plan, instances, adapters, work)
    const adapterList = program.placeList(adapters, work),
      instanceList = program.placeList(instances, work)
    const moving = keeping.take(4 * plan.params.length + 64, work)
    const hadOutput = this.plan?.modules.some(hasRole('output')) ?? false
    this.plan = plan
    this.signalAddresses = signals
    this.signalNumbers = numbersOf(plan.signals)
    keeping.end(work)
    return {
      memoryBytes: keeping.highWater,
      zero: Uint32Array.from(work.zero.flat()),
      ...packed(work.write),
      copies: Uint32Array.from(work.copy.flat()),
      words: this.changedWords(work.words),
      statics: Uint32Array.from([...work.freshStatics, ...work.statics]),
      freshStatics: work.freshStatics.length,
      params: work.params,
      amounts,
      program: ops,
      adapters: adapterList,
      instances: instanceList,
      moving: moving.address,
      ...toldOf(plan, keeping, instances, (key) => this.paramAddress(key)),
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
    if (on) this.keeping.watchRing(key)
    else this.keeping.unwatch(key)
    const index = this.signalNumbers.get(key)
    if (index === undefined) return undefined
    const address = this.signalAddresses[index]! + abi.SIGNAL_WANTED
    const value = on || this.plan!.wanted[index] === 1 ? 1 : 0
    this.sentWords.set(address, value)
    return [address, value]
  }

  private placeSignal(signal: PlanSignal, wanted: boolean, inLoop: boolean, work: Work): number {
    const set = signal.origin === 'set'
    const groups = set ? 1 : groupsOf(signal)
    const { address, fresh } = this.keeping.keep(
      `s:${signal.key}`,
      abi.SIGNAL_BYTES + groups * abi.GROUP_BYTES,
      1,
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
      [address + abi.SIGNAL_WANTED, wanted || this.keeping.isWatched(signal.key) ? 1 : 0],
      [address + abi.SIGNAL_FIXED, inLoop ? 1 : 0],
    )
    // Inside loops strides must be 16 before the first run: readers may come before writers.
    if (inLoop)
      for (let g = 0; g < groups; g += 1) work.words.push([address + abi.SIGNAL_STRIDES + 4 * g, 16])
    return address
  }

  private placeParam(param: PlanParam, signals: readonly number[], work: Work): number {
    const { address, fresh } = this.keeping.keep(`p:${param.key}`, abi.PARAM_BYTES, 1, work)
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
    const original =
      fresh && param.copyOf !== undefined ? this.keeping.before(`p:${param.copyOf}`) : undefined
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

  /** State, further memory and table of a module. */
  private placeMemory(module: PlanModule, work: Work): { state: number; aux: number; table: number } {
    const { slots } = CATALOGUE.get(module.type)!
    const groups = groupsOf(module)
    const stateKey = memoryKey(module)
    const state =
      slots.stateVectors > 0 ? this.keeping.keep(stateKey, slots.stateVectors * 16, groups, work).address : 0
    const original = module.copyOf === undefined ? undefined : memoryKey({ ...module, id: module.copyOf })
    const auxGroups = module.auxBytes % groups === 0 ? groups : 1
    const aux =
      module.auxBytes > 0
        ? this.keeping.keep(`a:${stateKey}`, module.auxBytes / auxGroups, auxGroups, work).address
        : 0
    if (original !== undefined) {
      copyOver(this.keeping.before(original), this.keeping.at(stateKey), work)
      copyOver(this.keeping.before(`a:${original}`), this.keeping.at(`a:${stateKey}`), work)
    }
    return { state, aux, table: module.table ? this.keeping.table(module.table, work) : 0 }
  }

  private placeModule(
    plan: Plan,
    module: PlanModule,
    { state, aux, table }: { state: number; aux: number; table: number },
    signals: readonly number[],
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
    const block = this.keeping.take(slots.instanceBytes + 4 * sources.length, work)
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
}

/** Numbers of signals by key. */
const numbersOf = (signals: Plan['signals']): Map<string, number> => {
  const numbers = new Map<string, number>()
  signals.forEach((signal, index) => {
    if (signal) numbers.set(signal.key, index)
  })
  return numbers
}
