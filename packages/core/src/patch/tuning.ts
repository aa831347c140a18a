import { parseKeys, parseScale, type Tuning, tuningOf } from '../formats/scala.ts'
import type { Fault, Patch } from './types.ts'
import { own } from '../units/own.ts'

interface TuningAsset {
  readonly kind?: unknown
  readonly scale?: unknown
  readonly keys?: unknown
  readonly file?: unknown
}

const known = new WeakMap<object, { readonly tuning?: Tuning; readonly faults: readonly Fault[] }>()

/**
 * The tuning a patch names: an asset `{ "kind": "tuning", "scale": text of a .scl file, "keys": text of a .kbm file }`.
 * Undefined for equal temperament.
 */
export const tuningFor = (patch: Patch): { readonly tuning?: Tuning; readonly faults: readonly Fault[] } => {
  const name = patch['tuning']
  if (name === undefined || name === 'equal' || typeof name !== 'string') return { faults: [] }
  const assets = (patch['assets'] ?? {}) as Record<string, TuningAsset | undefined>
  const asset = own(assets, name)
  if (asset?.kind !== 'tuning')
    return {
      faults: [
        {
          place: 'tuning',
          message: `there is no tuning "${name}"; use "equal" or the id of an asset of kind "tuning"`,
        },
      ],
    }
  const before = known.get(asset)
  if (before) return before
  const result = read(name, asset)
  known.set(asset, result)
  return result
}

const read = (
  name: string,
  asset: TuningAsset,
): { readonly tuning?: Tuning; readonly faults: readonly Fault[] } => {
  // A tuning kept in a file of its own is read by whoever loads the patch; where the file is missing all is equal.
  if (asset.scale === undefined && typeof asset.file === 'string') return { faults: [] }
  if (asset.scale === undefined)
    return {
      faults: [
        { place: `assets.${name}`, message: 'has no scale: expected the text of a .scl file in "scale"' },
      ],
    }
  const scale = parseScale(String(asset.scale))
  if (!scale.ok)
    return { faults: [{ place: `assets.${name}.scale, ${scale.fault.place}`, message: scale.fault.message }] }
  const keys = asset.keys === undefined ? undefined : parseKeys(String(asset.keys))
  if (keys && !keys.ok)
    return { faults: [{ place: `assets.${name}.keys, ${keys.fault.place}`, message: keys.fault.message }] }
  return { tuning: tuningOf(scale.value, keys?.ok ? keys.value : undefined), faults: [] }
}
