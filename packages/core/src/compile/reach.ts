/** How far what a module is given can go in a patch: what its memory is sized by. */
import type { Catalogue } from '../catalogue.ts'
import { modulated, paramAt } from '../describe/params.ts'
import type { Patch, PatchModule } from '../patch/types.ts'
import { isFormula } from '../patch/formulas.ts'
import type { FlatPatch } from './flatten.ts'
import { own } from '../units/own.ts'

/** Greatest values that something other than a cable may set, by target. */
export type Settings = ReadonlyMap<string, number>

/** Notes that a target may be set to a value. An amount counts by its size: it reaches as far down as up. */
export const noteReach = (settings: Map<string, number>, target: string, value: number): void => {
  const size = target.startsWith('cable:') ? Math.abs(value) : value
  settings.set(target, Math.max(settings.get(target) ?? -Infinity, size))
}

/** Of macros, snapshots and controllers; `more` from elsewhere, such as events to come. */
export const settingsOf = (patch: Patch, more?: Settings): Settings => {
  const found = new Map(more)
  const note = (target: string, value: unknown): void => {
    if (typeof value === 'number') noteReach(found, target, value)
  }
  for (const macro of patch.macros ?? [])
    for (const { param, from, to } of macro.targets ?? []) {
      note(param, from)
      note(param, to)
    }
  for (const snapshot of patch.snapshots ?? [])
    for (const [target, value] of Object.entries(snapshot.params ?? {})) note(target, value)
  for (const { target, low, high } of patch.controllers ?? []) {
    note(target, low ?? Infinity)
    note(target, high ?? Infinity)
  }
  return found
}

/** Greatest size of all that ends on a target; Infinity where a source states no bounds. */
const modulationAt = (target: string, flat: FlatPatch, settings: Settings, catalogue: Catalogue): number => {
  const feeds = flat.feeds.get(target) ?? []
  let modulation = 0
  for (const feed of feeds) {
    const source = flat.byId.get(feed.module)
    if (!source || !catalogue.get(source.type)?.description.bounded) return Infinity
    modulation += Math.abs(feed.amount)
  }
  for (const feed of feeds)
    if (feed.cable !== undefined)
      modulation += Math.max(0, (settings.get(`cable:${feed.cable}`) ?? 0) - Math.abs(feed.amount))
  return modulation
}

/**
 * The greatest size of the signal at an input, or the greatest value of a parameter, in its unit. Infinity where it
 * cannot be known: sources without stated bounds, field formulas. `amount` of every cable counts as it stands.
 */
export const mostAt = (
  module: PatchModule,
  name: string,
  flat: FlatPatch,
  settings: Settings,
  catalogue: Catalogue,
  sampleRate: number,
): number => {
  const target = `${module.id}.${name}`
  const modulation = modulationAt(target, flat, settings, catalogue)
  const param = catalogue.get(module.type)!.params.get(name)
  if (!param || modulation === Infinity) return modulation
  if (param.kind !== 'number') return 0
  const value = own(module.params, name) ?? param.default
  if (isFormula(value)) return Infinity
  const here = paramAt(param, module.params)
  const base = Math.max(Number(value), settings.get(target) ?? -Infinity)
  return Number.isFinite(base) ? modulated(here, base, modulation, sampleRate) : here.max
}
