/** What is taken over from plans before, against plans of patches of which nothing is known. Seeds are printed by fast-check. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../catalogue.ts'
import type { Patch } from '../patch/types.ts'
import { checkPatch } from '../patch/validate.ts'
import { dice, edited, randomPatch } from '../testing/edits.ts'
import { compile, type CompileOptions, type Retiring } from './compile.ts'
import { flatten } from './flatten.ts'
import type { Plan } from './plan.ts'

const planOf = (patch: Patch, options: CompileOptions = {}): Plan => {
  const result = compile(patch, options)
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return result.plan
}

/** Throws at the first difference, naming it: plans are too long to be shown side by side. */
const same = (a: unknown, b: unknown, where: string): void => {
  if (Object.is(a, b)) return
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null)
    throw new Error(`${where}: ${String(a)}, not ${String(b)}`)
  const left = Object.entries(a),
    right = new Map(Object.entries(b))
  if (left.length !== right.size) throw new Error(`${where}: ${left.length} parts, not ${right.size}`)
  for (const [name, value] of left) same(value, right.get(name), `${where}.${name}`)
}

/** Everything that ends anywhere, by sources, amounts and names. Places of cables are numbers that only have to rise. */
const endsOf = (patch: Patch): object =>
  Object.fromEntries(
    [...flatten(patch, CATALOGUE).feeds]
      .map(([key, feeds]) => {
        for (let n = 1; n < feeds.length; n += 1)
          expect(feeds[n]!.order).toBeGreaterThanOrEqual(feeds[n - 1]!.order)
        return [key, feeds.map((feed) => ({ ...feed, order: 0 }))] as const
      })
      .sort(([a], [b]) => (a < b ? -1 : 1)),
  )

/** With a bus, a formula in a field and a macro, so that something always passes through. */
const withPassages = (patch: Patch): Patch => {
  const [some] = patch.modules.filter(({ type }) => type === 'oscillator')
  const more = checkPatch({
    ...patch,
    modules: [
      ...patch.modules,
      { id: 'o', type: 'oscillator', params: { level: '= macro:m * 2' } },
      { id: 'bi', type: 'busin' },
      { id: 'bo', type: 'busout' },
    ],
    macros: [{ id: 'm', name: 'More', value: 0.5, targets: [] }],
    cables: [
      ...patch.cables,
      { from: 'o.saw', to: 'bi.in', amount: 0.5 },
      { from: `${some?.id ?? 'o'}.sine`, to: 'bi.in' },
      { from: 'bo.out', to: 'out.in' },
    ],
  })
  if (!more.ok) throw new Error(more.faults[0]!.message)
  return more.value
}

/** A module that is there, as if it had just changed, and one that has gone since: both are heard until they have faded. */
const retiringIn = (patch: Patch, before: Patch, pick: number): Retiring => {
  const there = patch.modules.filter(({ id, type }) => id !== 'out' && type !== 'group'),
    changed = there[pick % there.length]!
  const gone = before.modules.filter(
    ({ id, type }) => type !== 'group' && !patch.modules.some((module) => module.id === id),
  )
  const ids = new Map([[changed.id, `~was:${changed.id}`], ...gone.map(({ id }) => [id, id] as const)])
  const cables = before.cables.flatMap(({ from, to, amount = 1 }) => {
    const [source = '', port] = from.split('.'),
      [target = '', input] = to.split('.')
    const name = ids.get(target),
      isThere = ids.has(source) || there.some(({ id }) => id === source)
    return name === undefined || !isThere
      ? []
      : [{ from: `${ids.get(source) ?? source}.${port}`, to: `${name}.${input}`, amount }]
  })
  return {
    modules: [changed, ...gone].map((module) => ({ ...module, id: ids.get(module.id)! })),
    cables,
    copies: new Map([[`~was:${changed.id}`, changed.id]]),
  }
}

const seeds = fc.integer({ min: 1, max: 2 ** 31 - 1 })

describe('plans after edits', () => {
  it.each([
    ['of cables, modules, groups, bypasses and mutes', 12, 40],
    ['of cables alone', 0, 60],
  ] as const)('%s are those of a fresh build, settled and fading', (_name, kinds, edits) => {
    fc.assert(
      fc.property(seeds, (seed) => {
        const roll = dice(seed)
        let patch = withPassages(randomPatch(seed, 9, 20))
        let previous = planOf(patch)
        for (let n = 0; n < edits; n += 1) {
          const kind = kinds > 0 ? roll(kinds) : [3, 3, 7, 10][roll(4)]!
          const before = patch
          patch = edited(patch, roll, kind, 100 + n)
          // A copy of which nothing is known.
          const fresh = structuredClone(patch)
          same(endsOf(patch), endsOf(fresh), `edit ${n}`)
          const fading = planOf(structuredClone(patch), { previous })
          same(planOf(patch, { previous }), fading, `edit ${n}, fading`)
          const retiring = retiringIn(patch, before, roll(1000))
          const leaving = planOf(structuredClone(patch), { previous, retiring })
          same(planOf(patch, { previous, retiring }), leaving, `edit ${n}, with what leaves`)
          const plan = planOf(patch)
          same(plan, planOf(fresh), `edit ${n}, settled`)
          // Some edits come while the one before still fades.
          previous = roll(3) === 0 ? planOf(patch, { previous }) : plan
        }
      }),
      { numRuns: 12, endOnFailure: true },
    )
  })

  it('take over what did not change, and what they do not take over is what did', () => {
    const patch = randomPatch(7, 12, 0),
      before = planOf(patch)
    const target = patch.modules.find(({ type }) => CATALOGUE.get(type)!.inputs.has('in'))!
    const cable = { id: 'more', from: 'n.pitch', to: `${target.id}.in`, amount: 0.5 }
    const after = planOf({ ...patch, cables: [...patch.cables, cable] })
    const changed = after.modules.filter((module) => !before.modules.includes(module)).map(({ id }) => id)
    expect(changed).toContain(target.id)
    expect(changed.length).toBeLessThan(4)
  })

  it('put cables back where they were, again and again, without running out of places', () => {
    let patch = withPassages(randomPatch(11, 6, 12))
    const plain = patch
    const cable = { id: 'k', from: 'n.pitch', to: 'o.pitch', amount: 0.25 }
    for (let n = 0; n < 300; n += 1) {
      patch = {
        ...patch,
        cables: [patch.cables[0]!, { ...cable, amount: n / 300 }, ...plain.cables.slice(1)],
      }
      if (n % 3 === 0) patch = { ...patch, cables: plain.cables }
    }
    same(planOf(patch), planOf(structuredClone(patch)), 'at last')
  })
})
