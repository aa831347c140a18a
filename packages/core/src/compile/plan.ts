import type { ParamMode } from '../describe/types.ts'
import type { Latency } from './align.ts'

/** What the engine runs: plain data, no addresses. Indices point into the lists beside them. */
export interface PlanSignal {
  /** Lasting name: `osc.saw` for outputs, `>filter.cutoff` for adapters, `=osc.fine` for set values. */
  readonly key: string
  readonly voices: number
  readonly sides: number
  readonly origin: 'output' | 'adapter' | 'set' | 'factor'
}

export type Role = 'steady' | 'leaving' | 'arriving' | 'base'
export type Mapping = 'same' | 'copy' | 'widen' | 'sum' | 'general'

export interface PlanTerm {
  /** Lasting name: source and occurrence. */
  readonly key: string
  readonly source: number
  readonly cable: string | undefined
  /** What the cable's amount is multiplied by on its way through buses and groups: amount = cable's × scale. */
  readonly scale: number
  readonly amount: number
  readonly mapping: Mapping
  readonly sourceVoices: number
  readonly sourceSides: number
  readonly role: Role
  /** Lasting name of the term this one fades from, where that is another. */
  readonly was?: string
  /** Note source whose stolen voices fade in this sum of voices. */
  readonly steals?: string
}

export interface PlanAdapter {
  readonly key: string
  readonly signal: number
  readonly voices: number
  readonly sides: number
  readonly terms: PlanTerm[]
  /** Index of the parameter it serves; -1 for a port. */
  readonly param: number
  readonly fades: boolean
}

export interface PlanParam {
  readonly key: string
  readonly base: number
  readonly mode: ParamMode
  readonly min: number
  readonly max: number
  /** What is added to a time before octaves count, in its unit; 0 for all else. */
  readonly least: number
  readonly exact: boolean
  /** Signal of the value: set (one vector for all) or the adapter's. */
  readonly signal: number
  /** Signal of 2^modulation; -1 where nobody asks. */
  readonly factor: number
  readonly modulated: boolean
  /** Key of the parameter this one goes on from, in a copy that fades. */
  readonly copyOf?: string
}

/** An input of a module: a signal's index, or nothing (constant 0), or one (factor without modulation). */
export const NOTHING = -1
export const ONE = -2

export interface PlanModule {
  readonly id: string
  readonly type: string
  readonly voices: number
  readonly sides: number
  /** Most voices of anything that ends on it. */
  readonly fedVoices: number
  readonly seed: number
  /** By offset in the instance. */
  readonly inputs: readonly (readonly [slot: number, signal: number])[]
  readonly outputs: readonly (readonly [slot: number, signal: number])[]
  readonly settings: readonly (readonly [slot: number, value: number, whole: boolean])[]
  readonly auxBytes: number
  /** Id of the module this one is a copy of, with its state: it plays on as that was while it fades. */
  readonly copyOf?: string
  /** Id of a module that plays no more and whose memory this one takes over for its fade. */
  readonly stateOf?: string
  /** Id of the module whose memory it looks into. */
  readonly keeper?: string
  /** Words worked out from data; the same array as long as the data is the same. */
  readonly table?: Float32Array
}

export type PlanOp =
  | { readonly kind: 'module'; readonly module: number; readonly call: string }
  | { readonly kind: 'adapter'; readonly adapter: number }
  | {
      readonly kind: 'loop'
      readonly probes: readonly { readonly module: number; readonly call: string }[]
      readonly body: readonly PlanOp[]
    }

/** A feedback loop, for `check` and the inspector. */
export interface LoopReport {
  readonly modules: readonly string[]
  /** Cables that got one sample of delay because the loop has no delay module. */
  readonly cut: readonly string[]
  readonly delays: readonly string[]
}

export interface Plan {
  /** A module has the same numbers whatever is connected to it; those that nothing writes are left out. */
  readonly signals: readonly (PlanSignal | undefined)[]
  /** By signal, 1 where it is read. Of what no output writes only what is read is there at all. */
  readonly wanted: Uint8Array
  /** By signal, 1 where it is written inside a feedback loop, frame by frame. */
  readonly inLoop: Uint8Array
  readonly params: readonly PlanParam[]
  readonly adapters: readonly PlanAdapter[]
  readonly modules: readonly PlanModule[]
  readonly ops: readonly PlanOp[]
  readonly loops: readonly LoopReport[]
  readonly tempo: number
  /** Pitches of the 128 notes in octaves from C4; left out for equal steps. */
  readonly tuning?: readonly number[]
  /** Cables whose amount cannot be set while playing: changing it needs another plan. */
  readonly shadowed: readonly string[]
  readonly memoryBytes: number
  readonly latency: Latency
  /** Frames that fades wait for what is new: so long it is silent at first. */
  readonly wait: number
}
