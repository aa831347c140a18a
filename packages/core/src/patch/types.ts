/** A number in the parameter's unit, a word for choices, a boolean for switches, or a field formula ("= …"). */
export type ParamValue = number | string | boolean

/** Unknown fields are kept and written back, so every record is open. */
interface Open {
  readonly [field: string]: unknown
}

export interface PatchModule extends Open {
  readonly id: string
  readonly type: string
  readonly label?: string
  readonly params?: Readonly<Record<string, ParamValue>>
  readonly data?: Readonly<Record<string, unknown>>
  readonly bypass?: boolean
  readonly x?: number
  readonly y?: number
  readonly inside?: { readonly modules: readonly PatchModule[]; readonly cables: readonly Cable[] }
}

export interface Cable extends Open {
  readonly id?: string
  /** `module.port` */
  readonly from: string
  /** `module.port` or `module.param` */
  readonly to: string
  readonly amount?: number
  readonly muted?: boolean
  readonly color?: string
}

export interface MacroTarget {
  readonly param: string
  readonly from: number
  readonly to: number
  readonly curve?: number
}
export interface Macro extends Open {
  readonly id: string
  readonly name: string
  /** 0…1, as the rest of what a macro counts in. */
  readonly value: number
  readonly default?: number
  readonly step?: number
  /** What the player reads: a range with its unit. */
  readonly low?: number
  readonly high?: number
  readonly unit?: string
  readonly scale?: 'linear' | 'log'
  /** Left alone by variation. */
  readonly locked?: boolean
  readonly targets?: readonly MacroTarget[]
}

export interface Snapshot extends Open {
  readonly id: string
  readonly name: string
  readonly key?: string
  /** Modules and targets it speaks for as wholes; what they hold and it does not list goes back to what is set. */
  readonly scope?: readonly string[]
  readonly params?: Readonly<Record<string, ParamValue>>
  /** By `module.list`. */
  readonly data?: Readonly<Record<string, unknown>>
  readonly bypass?: Readonly<Record<string, boolean>>
  /** Seconds of its morph. */
  readonly over?: number
  readonly fire?: { readonly note: number; readonly velocity?: number; readonly length?: number }
}

export type ControllerKind = 'control' | 'pressure' | 'bend' | 'slide' | 'note' | 'program'

export interface Controller extends Open {
  readonly id?: string
  readonly target: string
  readonly source?: {
    readonly kind: ControllerKind
    readonly number?: number
    readonly channel?: number
    readonly device?: string
  }
  /** The older form of a control source. */
  readonly controller?: number
  readonly channel?: number
  readonly mode?: 'absolute' | 'scaled' | 'relative'
  readonly pickup?: boolean
  readonly low?: number
  readonly high?: number
  readonly curve?: number
  readonly encoding?: 'twos' | 'offset' | 'sign'
}

export interface BlendMark {
  readonly snapshot: string
  readonly x: number
  readonly y: number
}

export interface StageItem extends Open {
  readonly id: string
  readonly kind: string
  readonly marks?: readonly BlendMark[]
}

/** How far variations may move one target. */
export interface VaryLimit extends Open {
  readonly low?: number
  readonly high?: number
  /** Share of the range on both sides of what is set; 1: anywhere in it. */
  readonly spread?: number
  /** It stays as it is. */
  readonly lock?: boolean
  /** Words it may take. */
  readonly choices?: readonly string[]
}

export interface VarySettings extends Open {
  readonly seed?: number
  /** How likely a target is moved, 0…1. */
  readonly chance?: number
  readonly spread?: number
  /** By target. */
  readonly limits?: Readonly<Record<string, VaryLimit>>
}

export interface Patch extends Open {
  readonly format: 'ypsilon/patch'
  readonly version: number
  readonly name: string
  readonly description?: string
  readonly tags?: readonly string[]
  readonly tempo?: number
  readonly seed?: number
  readonly modules: readonly PatchModule[]
  readonly cables: readonly Cable[]
  readonly macros?: readonly Macro[]
  readonly controllers?: readonly Controller[]
  readonly snapshots?: readonly Snapshot[]
  readonly stage?: Open & { readonly items?: readonly StageItem[] }
  readonly vary?: VarySettings
}

/** Something wrong, and where: `modules[3].params.cutoff: 90000 is above 20000 Hz`. */
export interface Fault {
  readonly place: string
  readonly message: string
}

export type Result<T> =
  | { readonly ok: true; readonly value: T; readonly warnings: readonly Fault[] }
  | { readonly ok: false; readonly faults: readonly Fault[] }

const LONGEST_LINE = 300

/** A text as one line that no terminal or page can take for anything else: no control characters, 300 at the most. */
export const oneLine = (text: string): string => {
  const plain = text
    .slice(0, 4 * LONGEST_LINE)
    .replace(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}\p{Cs}]+/gu, ' ')
    .trim()
  return plain.length > LONGEST_LINE ? `${plain.slice(0, LONGEST_LINE - 1)}…` : plain
}

export const faultText = (fault: Fault): string =>
  oneLine(fault.place ? `${fault.place}: ${fault.message}` : fault.message)

export const PATCH_VERSION = 1
export const APP_VERSION = '0.1.0'

export const emptyPatch = (name = 'Untitled'): Patch => ({
  format: 'ypsilon/patch',
  version: PATCH_VERSION,
  app: APP_VERSION,
  name,
  description: '',
  tags: [],
  tempo: 120,
  seed: 1,
  tuning: 'equal',
  modules: [],
  cables: [],
  macros: [],
  controllers: [],
  snapshots: [],
  assets: {},
  view: {},
})
