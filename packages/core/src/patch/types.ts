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
  readonly value: number
  readonly step?: number
  readonly targets?: readonly MacroTarget[]
}

export interface Snapshot extends Open {
  readonly id: string
  readonly name: string
  readonly key?: string
  readonly params?: Readonly<Record<string, ParamValue>>
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
  readonly snapshots?: readonly Snapshot[]
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
