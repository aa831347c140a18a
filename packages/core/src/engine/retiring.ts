/** What is no longer heard since the last patch: it stays for its fade. */
import { CATALOGUE } from '../catalogue.ts'
import { holdsBack } from '../compile/align.ts'
import type { Retiring } from '../compile/compile.ts'
import type { Feed, FlatPatch } from '../compile/flatten.ts'
import type { Plan } from '../compile/plan.ts'
import { kindOf } from '../describe/kinds/index.ts'
import { isFormula } from '../patch/formulas.ts'
import { patchIndex } from '../patch/index.ts'
import type { Cable, Patch, PatchModule } from '../patch/types.ts'
import { splitTarget } from '../patch/walk.ts'
import { own } from '../units/own.ts'

/** Memory of a module that is copied in one block at the most; larger ones change without a fade. */
const MOST_COPIED = 2 ** 20

/** A copy of a module as it was, that plays on while it fades. */
const copyId = (id: string): string => `~was:${id}`

/** Does a module differ in words, data or what is set only, so that it is to be faded from a copy of itself? */
const isRenewed = (a: PatchModule, b: PatchModule): boolean => {
  if (a === b || a.type !== b.type) return false
  const entry = CATALOGUE.get(b.type)
  if (!entry || entry.description.role !== undefined) return false
  if (a.data !== b.data) return true
  if (a.params === b.params) return false
  return [...new Set([...Object.keys(a.params ?? {}), ...Object.keys(b.params ?? {})])].some((name) => {
    const param = entry.params.get(name)
    const [was, is] = [own(a.params, name) ?? param?.default, own(b.params, name) ?? param?.default]
    return (
      param !== undefined &&
      was !== is &&
      (!kindOf(param).isContinuous || param.setOnly || isFormula(was) || isFormula(is))
    )
  })
}

/**
 * What is no longer heard since the last patch, wherever it stood, with what fed it: it stays for its fade. A module that
 * went into a group or came out of one is not gone. With a plan to fade from also copies of modules that changed in words
 * or data.
 */
export const retired = (
  was: FlatPatch,
  now: FlatPatch,
  after: Patch,
  fading: Plan | undefined,
): Retiring | undefined => {
  if (was.modules === now.modules) return undefined
  const gone = was.modules.filter(({ id }) => !now.byId.has(id) && (!id.startsWith('~') || holdsBack(id)))
  const large = new Set(
    (fading?.modules ?? []).filter(({ auxBytes }) => auxBytes > MOST_COPIED).map(({ id }) => id),
  )
  const renewed = fading
    ? was.modules.filter((module) => {
        const other = now.byId.get(module.id)
        return (
          other !== undefined &&
          !module.id.startsWith('~') &&
          !large.has(module.id) &&
          isRenewed(module, other)
        )
      })
    : []
  if (gone.length + renewed.length === 0) return undefined
  // What is bypassed still stands in the patch under its name: a copy fades.
  const { module: standing } = patchIndex(after)
  const copied = [...gone.filter(({ id }) => standing.has(id)), ...renewed].map(({ id }) => id)
  const names = new Map(gone.map(({ id }): [string, string] => [id, id]))
  for (const id of copied) names.set(id, copyId(id))
  const modules = [...gone, ...renewed].map((module) => ({ ...module, id: names.get(module.id)! }))
  // Formulas that gave them values and are gone as well, and what held their sound back: walked on while they are found.
  const leaves = (id: string): boolean => !now.byId.has(id) || holdsBack(id)
  for (const [id] of names)
    for (const [, feeds] of feedsInto(was, id))
      for (const feed of feeds)
        if (leaves(feed.module) && !names.has(feed.module) && was.byId.has(feed.module)) {
          names.set(feed.module, feed.module)
          modules.push(was.byId.get(feed.module)!)
        }
  const cables = [...names].flatMap(([id, name]) =>
    feedsInto(was, id).flatMap(([to, feeds]) =>
      feeds.map((feed): Cable => ({
        from: `${names.get(feed.module) ?? feed.module}.${feed.port}`,
        to: `${name}.${splitTarget(to)![1]}`,
        amount: feed.amount,
        ...(feed.base ? { base: true } : {}),
      })),
    ),
  )
  return { modules, cables, copies: new Map(copied.map((id) => [copyId(id), id])) }
}

/** What ends on a module, by where. */
const feedsInto = (flat: FlatPatch, id: string): [string, readonly Feed[]][] => {
  const { inputs } = CATALOGUE.get(flat.byId.get(id)!.type)!.slots
  return [...inputs.keys()].flatMap((name): [string, readonly Feed[]][] => {
    const feeds = flat.feeds.get(`${id}.${name}`)
    return feeds ? [[`${id}.${name}`, feeds]] : []
  })
}
