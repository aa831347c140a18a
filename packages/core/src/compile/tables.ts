import type { Catalogue } from '../catalogue.ts'
import type { AssetSound } from '../describe/types.ts'
import type { PatchModule } from '../patch/types.ts'
import { tableContextOf } from './shapes.ts'
import { own } from '../units/own.ts'

const tables = new WeakMap<object, Map<string, Float32Array>>()
const NO_DATA = {}

/** A module's table; the same array as long as its data, its set-only parameters and the recordings are the same. */
export const tableFor = (
  module: PatchModule,
  catalogue: Catalogue,
  sampleRate: number,
  assets: ReadonlyMap<string, AssetSound> | undefined,
): Float32Array => {
  const { description } = catalogue.get(module.type)!
  const context = tableContextOf(module, catalogue, sampleRate, (id) => assets?.get(id))
  const settings = description.params
    .filter((param) => param.setOnly)
    .map((param) => String(own(module.params, param.name) ?? ''))
  const key = [module.type, sampleRate, ...settings].join('\n')
  // Data is part of an immutable document: the same object means the same content.
  const known = tables.get(module.data ?? NO_DATA) ?? new Map<string, Float32Array>()
  tables.set(module.data ?? NO_DATA, known)
  const found = assets && assets.size > 0 ? known.get(`${key}\n${assetMark(assets)}`) : known.get(key)
  if (found) return found
  const made = description.table!(context)
  known.set(assets && assets.size > 0 ? `${key}\n${assetMark(assets)}` : key, made)
  return made
}

const marks = new WeakMap<object, number>()
let nextMark = 0
/** A number for a set of recordings: the same object, the same number. */
const assetMark = (assets: ReadonlyMap<string, AssetSound>): number => {
  let mark = marks.get(assets)
  if (mark === undefined) {
    mark = nextMark += 1
    marks.set(assets, mark)
  }
  return mark
}
