/** What a compilation is given besides the patch, and the plain numbers values become. */
import type { Catalogue } from '../catalogue.ts'
import { kindOf } from '../describe/kinds/index.ts'
import type { AssetSound, ParamDescription } from '../describe/types.ts'
import { isFormula } from '../patch/formulas.ts'
import type { Cable, PatchModule } from '../patch/types.ts'
import type { Plan } from './plan.ts'
import type { Settings } from './reach.ts'

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

/** FNV-1a over the patch seed and the module's id: its random seed, whatever happens around it. */
export const seedOf = (patchSeed: number, id: string): number => {
  let hash = (2166136261 ^ (patchSeed | 0)) >>> 0
  for (let i = 0; i < id.length; i += 1) hash = Math.imul(hash ^ id.charCodeAt(i), 16777619) >>> 0
  return hash
}

/** The value a parameter is set to, as the number kernels read. */
export const plainValue = (param: ParamDescription, value: unknown): number => {
  const given = value === undefined || isFormula(value) ? param.default : value
  return kindOf(param).plain(param, given)
}
