/** What tests of groups do: edits that are undone exactly, groups made and taken apart, and what is heard of a patch. */
import { expect } from 'vitest'
import { CATALOGUE } from '../catalogue.ts'
import { flatten } from '../compile/flatten.ts'
import { edit, revertChange } from '../patch/document.ts'
import { dissolveGroup, makeGroup } from '../patch/grouping.ts'
import type { Patch } from '../patch/types.ts'
import { patchOf } from './bench.ts'

type Recipe = Parameters<typeof edit>[2]

/** The patch after an edit that is taken, whose inverse gives back what was before. */
export const edited = (patch: Patch, recipe: Recipe): Patch => {
  const result = edit(patch, 'Edit', recipe)
  if (!result.ok)
    throw new Error(result.faults.map(({ place, message }) => `${place}: ${message}`).join('\n'))
  expect(revertChange(result.patch, result.change)).toEqual(patch)
  return result.patch
}
export const grouped = (patch: Patch, ids: readonly string[]): { patch: Patch; id: string } => {
  let id: string | undefined
  const next = edited(patch, (draft) => {
    id = makeGroup(draft, new Set(ids))
  })
  return { patch: next, id: id! }
}
export const apart = (patch: Patch, id: string): Patch =>
  edited(patch, (draft) => {
    dissolveGroup(draft, id)
  })

/** What ends where, and how much of it, once everything that is dissolved is. */
export const heard = (patch: Patch): string[] =>
  [...flatten(patch, CATALOGUE).feeds]
    .flatMap(([to, feeds]) => feeds.map((feed) => `${feed.from} > ${to} * ${feed.amount.toPrecision(10)}`))
    .sort()

export const cablesOf = (patch: Patch): string[] =>
  patch.cables
    .map(
      (cable) => `${cable.id ?? ''}: ${cable.from} > ${cable.to} * ${cable.amount ?? 1} ${cable.muted ?? ''}`,
    )
    .sort()

export const voice = (more: object = {}): Patch =>
  patchOf(
    [
      ['notes', 'notes', { voices: 4 }],
      ['osc', 'oscillator'],
      ['env', 'envelope'],
      ['filter', 'filter', { cutoff: 800 }],
      ['amp', 'amplifier'],
      ['echo', 'delay'],
      ['out', 'output'],
    ],
    [
      'pitch: notes.pitch > osc.pitch',
      'gate: notes.gate > env.gate',
      'saw: osc.saw > filter.in',
      'sweep: env.env > filter.cutoff * 2',
      'level: env.env > amp.cv',
      'low: filter.low > amp.in',
      'send: amp.out > echo.in * 0.5',
      'dry: amp.out > out.in',
      'wet: echo.out > out.in',
    ],
    more,
  )
