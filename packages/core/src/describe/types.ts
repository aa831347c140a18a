import type { Drawing, PictureContext, PictureHandle } from './picture-types.ts'
import type { DataDescription } from './data/kind.ts'
import type { Family, ParamDescription } from '../generated/kinds.ts'

export type * from './picture-types.ts'

/** What a signal usually means; any kind may go anywhere. */
export type SignalKind = 'audio' | 'control' | 'pitch' | 'gate'

/** An input port. */
export interface InputDescription {
  readonly name: string
  readonly kind: SignalKind
  readonly label?: string
  /** What an unconnected port behaves as, in words. */
  readonly normalled?: string
}

/** An output port. */
export interface OutputDescription {
  readonly name: string
  readonly kind: SignalKind
  readonly label?: string
  /** 1 where the output has one voice whatever the module has. */
  readonly voices?: 1
  /** 2 where the output is stereo, 1 where it is mono, whatever comes in. */
  readonly sides?: 1 | 2
  /** It never goes below 0: a cable from it moves things one way. Gates never do. */
  readonly oneSided?: boolean
}

export type { ParamCommon, ParamMode } from './kinds/kind.ts'
export type { Param as NumberParam, ParamUnit } from './kinds/number.ts'
export type { Param as ChoiceParam } from './kinds/choice.ts'
export type { Param as SwitchParam } from './kinds/switch.ts'
export type { Param as TextParam } from './kinds/text.ts'
export type { DataDescription, ShownRange, Spans } from './data/kind.ts'
export type { Family, ParamDescription } from '../generated/kinds.ts'

/**
 * A part of a module that runs by itself. Most modules have one. A delay has two: it reads before it writes, so that
 * its input does not feed its output within a sample.
 */
export interface Stage {
  readonly name: string
  /** Inputs and parameters read here; all where left out. */
  readonly reads?: readonly string[]
  /** Outputs written here; all where left out. */
  readonly writes?: readonly string[]
  /** This stage can report how many frames its delay certainly keeps (function `<name>Least` in the kernel). */
  readonly reportsDelay?: boolean
}

/** A family of modules: its folder's name is its id. */
export interface FamilyDescription {
  readonly label: string
  /** Place among the families. */
  readonly order: number
  /** Its mark: an SVG path on a field of 16 by 16, drawn as a line. */
  readonly mark: string
}

/** A recording a patch brings along: samples within ±1 by channel. */
export interface AssetSound {
  readonly rate: number
  readonly channels: readonly Float32Array[]
  /** Note at which it sounds as recorded, and the frames it may go round in (the end not included), as its file says. */
  readonly root?: number
  readonly loop?: { readonly start: number; readonly end: number }
}

/** What a module is given at compile time to decide shapes and memory. */
export interface ShapeContext {
  readonly number: (param: string) => number
  readonly choice: (param: string) => string
  readonly sampleRate: number
}

/** What a module is given to size its memory, besides. */
export interface MemoryContext extends ShapeContext {
  /** Greatest value a parameter can take in this patch, or size of the signal at an input; Infinity where unknown. */
  readonly most: (name: string) => number
  /** Is this parameter set in the patch, or left at its default? */
  readonly isSet: (param: string) => boolean
  readonly table: Float32Array | undefined
}

/** What a module is given to say what its user would want to know, besides. */
export interface RemarkContext extends ShapeContext {
  /** Is this parameter set in the patch, or left at its default? */
  readonly isSet: (param: string) => boolean
}

/** What a module is given to say what it costs, besides. */
export interface CostContext extends ShapeContext {
  /** Does a cable end on this input or parameter? */
  readonly isCabled: (name: string) => boolean
  readonly table: Float32Array | undefined
}

/** What a module is given to work out its table, besides. */
export interface TableContext extends ShapeContext {
  /** What the patch holds under a name of the module's data, or its default. */
  readonly data: (name: string) => unknown
  readonly asset: (id: string) => AssetSound | undefined
}

/** How a module's outputs are shaped. */
export interface ShapeRule {
  /** Sets the voice count by itself. */
  readonly voices?: (context: ShapeContext) => number
  /**
   * A random source: with its choice `per` at `voice` it has as many voices as what it feeds, while none of these inputs
   * has a cable.
   */
  readonly perVoice?: { readonly without: readonly string[] }
  /** Sums voices: runs with one voice whatever comes in; `unless apart`: unless its choice `per` is `voice`. */
  readonly sumsVoices?: boolean | 'unless apart'
  /** Voices end here, without being summed: they go apart. */
  readonly endsVoices?: boolean
  /** Runs in stereo whatever comes in. */
  readonly sides?: 1 | 2
}

export interface Help {
  /** What it is for, in one line. */
  readonly does: string
  /** How it behaves. */
  readonly how: string
  /** Typical ranges. */
  readonly ranges: string
  /** One starting point. */
  readonly start: string
}

/** Inputs of which one at least must be connected, and what happens and helps where none is. */
export interface Need {
  readonly any: readonly string[]
  readonly message: string
}

/**
 * What the compiler takes a module for, besides what a patch uses it as: both ends of a bus, which it dissolves; one
 * sample's delay, which closes loops; a formula in a field; a value that formulas name; what lets a signal be listened to.
 */
export type Part = 'sum' | 'send' | 'receive' | 'unitdelay' | 'expression' | 'value' | 'listener' | 'align'

/**
 * Memory that modules share under a name, patch-wide: one keeps it, guests look into it, run after it and take its shape.
 * `name` is the parameter that says which.
 */
export interface SharedMemory {
  readonly as: 'keeper' | 'guest'
  readonly name: string
}

/** Audio in and out that bypass connects. */
export interface BypassRule {
  readonly from: string
  readonly to: string
  /** The module plays on without anything coming in, so that what rings in it ends by itself. */
  readonly tail?: true
}

/** What a module's data is drawn with in the dock. */
export type EditorDescription =
  | { readonly kind: 'curve' }
  /** Twelve switches from the root on, as keys. */
  | { readonly kind: 'scale' }
  /** Notes over beats; the module tells the beat it is at as `beat`. */
  | { readonly kind: 'clip' }
  /** Heights evenly from −1 to 1. */
  | { readonly kind: 'transfer' }
  /** The part of a recording that plays, from `from` to `to`, in `slices`. */
  | { readonly kind: 'recording' }
  /** Zones over keys and velocities. */
  | { readonly kind: 'zones' }
  /** A text in the formula language. */
  | { readonly kind: 'formula' }
  /** Frames of one cycle each. */
  | { readonly kind: 'table' }
  /** Lists as rows of bars and switches: what an entry is called, and the parameter that says how many count. */
  | {
      readonly kind: 'rows'
      readonly entry: string
      readonly length: string
      /** The list that holds lengths of the rows' own, in their order; 0: as the parameter says. */
      readonly lengths?: string
      /** Lists that a sound's partials are taken into, and the choice that lets them count. */
      readonly spectrum?: {
        readonly levels: string
        readonly ratios: string
        readonly series: readonly [param: string, harmonic: string, own: string]
        /** What changes levels besides, and is set to 0. */
        readonly flat?: string
      }
    }

export interface ModuleDescription {
  readonly type: string
  readonly family: Family
  readonly label: string
  /** Its id in a new patch, where that is shorter than its type. */
  readonly short?: string
  /** Its mark, its own among all: an SVG path on a field of 16 by 16, drawn as a line. */
  readonly mark: string
  /** Words the finder also knows it by. */
  readonly words: readonly string[]
  readonly help: Help
  /** Rows a card shows even while nothing is connected to them. */
  readonly front?: readonly string[]
  /** Parameters, two at most, whose values stand with its name where a card is too small for rows. */
  readonly headline: readonly string[]
  /**
   * Parameters that variations leave alone unless a limit names them, besides those in steps of pitch: what tunes it, what
   * is the player's, what turns everything off.
   */
  readonly stays?: 'all' | readonly string[]
  readonly inputs: readonly InputDescription[]
  readonly outputs: readonly OutputDescription[]
  readonly params: readonly ParamDescription[]
  readonly data?: readonly DataDescription[]
  readonly stages?: readonly Stage[]
  readonly shape?: ShapeRule
  /**
   * State per group of four lanes, in vectors: `flushed` holds audio feedback state (cleared when it blows up, flushed
   * when it is inaudible), `kept` anything else. `name*8` is eight vectors.
   */
  readonly state?: { readonly flushed?: readonly string[]; readonly kept?: readonly string[] }
  /** Bytes of further memory. */
  readonly memory?: (context: MemoryContext, voices: number, sides: number) => number
  /**
   * Words the kernel reads from its table, worked out from data and set-only parameters (as 32-bit floats, or whole
   * numbers by their bits in a Uint32Array view). Only + − × ÷ √ and units/exact.ts: it must be the same everywhere.
   */
  readonly table?: (context: TableContext) => Float32Array
  /**
   * How the kernel is called. Left out: it exports a function for each stage. `memoryless`: it exports
   * `compute(instance, group, frame)`, a function of its inputs alone. `sequential`: `compute` too, and
   * `idle(instance, group)`, true when nothing in it will move while its inputs stay as they are.
   */
  readonly frames?: 'memoryless' | 'sequential'
  /** A picture at given settings: a response, a wave, an envelope. */
  readonly picture: Drawing
  /** Where its picture can be dragged, at the module's settings. */
  readonly handles?: (context: PictureContext) => readonly PictureHandle[]
  /**
   * What pictures are drawn from besides outputs: a value a voice each, written by `tell` (kernels/telling) while it is
   * looked at. No ports: nothing can be connected to them.
   */
  readonly tells?: readonly string[]
  /** A part of the inspector of its own; the page maps it to a component. */
  readonly panel?: 'device' | 'group'
  /** What its data is drawn with in the dock, all of it together; the page maps it to a component. */
  readonly editor?: EditorDescription
  readonly bypass?: BypassRule
  /** What has to be connected for it to do anything, besides a sound at `in` and a clock at `clock`. */
  readonly needs?: readonly Need[]
  /**
   * Samples by which it holds back low frequencies between its audio input and an output, at its settings: what it adds
   * to a loop. undefined where that follows a pitch.
   */
  readonly delay?: (context: ShapeContext, output: string) => number | undefined
  /** What its user would want to know of settings that are valid, parameter by parameter. */
  readonly remarks?: (context: RemarkContext) => readonly (readonly [param: string, message: string])[]
  /** Without a cable here it lets its sound through all the time. */
  readonly closedBy?: string
  readonly shares?: SharedMemory
  /** Its further memory is what a player recorded: silence and panic leave it. */
  readonly keepsRecording?: true
  /** Takes samples from outside or makes them leave: the engine connects these. */
  readonly role?: 'notes' | 'input' | 'output'
  /** The compiler's use of it; one module for each. */
  readonly part?: Part
  /**
   * Most that a voice-sample may cost, its usual inputs connected, as a multiple of what one of the reference work costs in
   * the same run (kernels/reference); held by `./ypsilon speed --check`.
   */
  readonly bound: number
  /** Measured nanoseconds a sample: with one lane, with a group of four, and for each further group. */
  readonly cost?: readonly [one: number, four: number, further: number]
  /** How many times that at these settings and with these cables, 1 where left out. */
  readonly costlier?: (context: CostContext) => number
  /** As many things may sound in it at once, where that makes what it costs: grains of a cloud. */
  readonly swarm?: number
  /** Dissolved when a patch is compiled: it costs nothing while playing and has no kernel. */
  readonly flattened?: boolean
  /** The compiler's own: not in the catalogue, no patch may name it. */
  readonly internal?: boolean
  /** Delay in frames between in and out, for reports and compensation. */
  readonly latency?: (context: ShapeContext) => number
  /** All its inputs of sound come together in its outputs: they are brought to the same time. */
  readonly adds?: true
  /** No output leaves ±1, whatever comes in (levels and mixes within their ranges). */
  readonly bounded?: boolean
  /** Outputs may be other than silent with silent inputs. */
  readonly sounds?: boolean
}
