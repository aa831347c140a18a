/** Patches of any size as hands would wire them: chains that branch and meet, with amounts, from a seed. */
import { CATALOGUE } from '../catalogue.ts'
import { isSignalParam } from '../describe/slots.ts'
import type { ModuleDescription } from '../describe/types.ts'
import type { Cable, Patch } from '../patch/types.ts'
import { emptyPatch } from '../patch/types.ts'
import { endsOf } from '../patch/walk.ts'

/** Numerical Recipes' quick generator: 0…1. */
const chances = (seed: number): (() => number) => {
  let state = seed >>> 0
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return state / 2 ** 32
  }
}

/** How far back a cable comes from at the most, and how many a module has. */
const REACH = 6,
  MOST_IN = 3

export const generatedPatch = (count: number, seed: number): Patch => {
  const chance = chances(seed)
  const pick = <T>(items: readonly T[]): T => items[Math.floor(chance() * items.length)]!
  const types = [...CATALOGUE.values()]
    .map(({ description }): ModuleDescription => description)
    .filter(({ type, outputs }) => type !== 'output' && outputs.length > 0)
  const chosen = Array.from({ length: count - 1 }, () => pick(types))
  const cables: Cable[] = []
  chosen.forEach(({ inputs, params }, n) => {
    const ends = [
      ...inputs.map(({ name }) => name),
      ...params.filter(isSignalParam).map(({ name }) => name),
    ].slice(0, 5)
    if (n === 0 || ends.length === 0) return
    for (let k = 0; k < 1 + Math.floor(chance() * MOST_IN); k += 1) {
      const back = Math.max(0, n - 1 - Math.floor(chance() * REACH))
      const from = `m${back}.${pick(chosen[back]!.outputs).name}`,
        to = `m${n}.${pick(ends)}`
      if (cables.some((cable) => cable.from === from && cable.to === to)) continue
      cables.push({ id: `c${cables.length}`, from, to, ...(chance() < 0.3 ? { amount: 0.5 } : {}) })
    }
  })
  const led = new Set(cables.map((cable) => endsOf(cable).fromModule))
  // What leads nowhere goes to the output, the last of them at least.
  const loose = chosen.flatMap(({ outputs }, n) => (led.has(`m${n}`) ? [] : [`m${n}.${outputs[0]!.name}`]))
  loose.forEach((from, n) => cables.push({ id: `o${n}`, from, to: 'out.in' }))
  return {
    ...emptyPatch(`Generated ${count} ${seed}`),
    modules: [...chosen.map(({ type }, n) => ({ id: `m${n}`, type })), { id: 'out', type: 'output' }],
    cables,
  }
}
