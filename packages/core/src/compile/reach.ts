/** How far what a module is given can go in a patch: what its memory is sized by. */
import type { Catalogue } from '../catalogue.ts'
import { modulated, paramAt } from '../describe/params.ts'
import type { Patch, PatchModule } from '../patch/types.ts'
import { isFormula } from '../patch/formulas.ts'
import type { FlatPatch } from './flatten.ts'
import { own } from '../units/own.ts'

/** Greatest values that something other than a cable may set, by target. */
export type Settings = ReadonlyMap<string, number>

/** Of macros, snapshots and controllers; `more` from elsewhere, such as events to come. */
export const settingsOf = (patch: Patch, more?: Settings): Settings => {
  const found = new Map(more)
  const note = (target: string, value: unknown): void => {
    if (typeof value === 'number') found.set(target, Math.max(found.get(target) ?? -Infinity, value))
  }
  for (const macro of patch.macros ?? [])
    for (const target of macro.targets ?? []) note(target.param, Math.max(target.from, target.to))
  for (const snapshot of patch.snapshots ?? [])
    for (const [target, value] of Object.entries(snapshot.params ?? {})) note(target, value)
  const controllers = patch['controllers']
  if (Array.isArray(controllers))
    for (const controller of controllers as { target?: unknown }[])
      if (typeof controller?.target === 'string') note(controller.target, Infinity)
  return found
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
  const entry = catalogue.get(module.type)!
  const target = `${module.id}.${name}`
  let modulation = 0
  for (const feed of flat.feeds.get(target) ?? []) {
    const source = flat.byId.get(feed.module)
    if (!source || !catalogue.get(source.type)?.description.bounded) return Infinity
    modulation += Math.abs(feed.amount)
  }
  for (const feed of flat.feeds.get(target) ?? [])
    if (feed.cable !== undefined)
      modulation += Math.max(0, (settings.get(`cable:${feed.cable}`) ?? 0) - feed.amount)
  const param = entry.params.get(name)
  if (!param) return modulation
  if (param.kind !== 'number') return 0
  const value = own(module.params, name) ?? param.default
  if (isFormula(value)) return Infinity
  const here = paramAt(param, module.params)
  const base = Math.max(Number(value), settings.get(target) ?? -Infinity)
  return Number.isFinite(base) ? modulated(here, base, modulation, sampleRate) : here.max
}
