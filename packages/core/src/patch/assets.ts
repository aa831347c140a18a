/** Recordings and tables as modules name them: by ids that hold within one patch. */
import type { Draft } from 'immer'
import { CATALOGUE } from '../catalogue.ts'
import { freshId } from './document.ts'
import { own } from '../units/own.ts'
import type { Patch, PatchModule } from './types.ts'
import { everyModule } from './walk.ts'

type Part = Draft<PatchModule>
type Rename = (id: string) => string

/** Does something with every name of an asset in a value of data: a name alone, or zones that each have one. */
const withNames = (value: unknown, rename: Rename): unknown => {
  if (typeof value === 'string') return rename(value)
  if (!Array.isArray(value)) return value
  return (value as unknown[]).map((zone) =>
    typeof zone === 'object' && zone !== null && typeof (zone as { asset?: unknown }).asset === 'string'
      ? { ...zone, asset: rename((zone as { asset: string }).asset) }
      : zone,
  )
}

/** Does something with every name of an asset that a module has; what it gives back stands in its place. */
const renameIn = (module: Part, rename: Rename): void => {
  const { params = [], data = [] } = CATALOGUE.get(module.type)?.description ?? {}
  for (const param of params) {
    const value = param.kind === 'text' && param.recording ? own(module.params, param.name) : undefined
    if (typeof value === 'string') module.params = { ...module.params, [param.name]: rename(value) }
  }
  for (const { kind, name } of data) {
    const value = kind === 'table' || kind === 'zones' ? own(module.data, name) : undefined
    if (value !== undefined) module.data = { ...module.data, [name]: withNames(value, rename) }
  }
}

/** Ids of assets that modules name, and those in them. */
export const namedAssets = (modules: readonly PatchModule[]): Set<string> => {
  const found = new Set<string>()
  for (const { module } of everyModule({ modules }))
    renameIn({ ...module } as Part, (id) => {
      found.add(id)
      return id
    })
  return found
}

const isSame = (a: unknown, b: unknown): boolean => {
  const [one, other] = [a, b] as ({ hash?: unknown; kind?: unknown } | undefined)[]
  const isOfOneHash = one?.hash !== undefined && one.hash === other?.hash && one.kind === other?.kind
  return isOfOneHash || JSON.stringify(a) === JSON.stringify(b)
}

/**
 * Brings assets along with modules that come into a patch. One that is there already is used; where another one has its id,
 * it gets a new one, which the modules name from then on.
 */
export const bringAssets = (
  draft: Draft<Patch>,
  modules: readonly Part[],
  assets: Readonly<Record<string, unknown>>,
): void => {
  if (Object.keys(assets).length === 0) return
  const there = new Map(Object.entries((draft['assets'] ?? {}) as Record<string, unknown>)),
    names = new Map<string, string>()
  for (const [id, asset] of Object.entries(assets)) {
    const known = [...there].find(([, other]) => isSame(other, asset))?.[0]
    const name = known ?? freshId(new Set(there.keys()), id)
    names.set(id, name)
    there.set(name, asset)
  }
  Object.assign(draft, { assets: Object.fromEntries(there) })
  const open = (module: Part): void => {
    renameIn(module, (id) => names.get(id) ?? id)
    module.inside?.modules.forEach(open)
  }
  modules.forEach(open)
}
