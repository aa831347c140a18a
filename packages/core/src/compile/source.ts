/** What every stage of a compilation reads. */
import type { Catalogue } from '../catalogue.ts'
import type { Patch } from '../patch/types.ts'
import type { Before } from './before.ts'
import type { FlatPatch } from './flatten.ts'
import type { CompileOptions } from './options.ts'
import type { Place } from './place.ts'
import type { Settings } from './reach.ts'

export interface Source {
  readonly patch: Patch
  readonly flat: FlatPatch
  readonly places: ReadonlyMap<string, Place>
  readonly catalogue: Catalogue
  readonly sampleRate: number
  readonly options: CompileOptions
  readonly settings: Settings
  /** Note source whose stolen voices each module has. */
  readonly origins: ReadonlyMap<string, string>
  readonly before: Before
}
