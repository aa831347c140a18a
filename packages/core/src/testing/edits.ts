/** Patches and edits at random, from one number. */
import { CATALOGUE, PUBLIC_MODULES } from '../catalogue.ts'
import { isSignalParam } from '../describe/slots.ts'
import type { Patch, PatchModule } from '../patch/types.ts'
import { checkPatch } from '../patch/validate.ts'

/** A whole number below `most`. */
export type Roll = (most: number) => number

const TYPES = PUBLIC_MODULES.filter((module) => !module.flattened && module.role !== 'output').map(
  (module) => module.type,
)

/** Numbers from one seed, the same everywhere. */
export const dice = (seed: number): Roll => {
  let state = seed >>> 0
  return (most) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return Math.floor((state / 4294967296) * most)
  }
}

const addModule = (patch: Patch, roll: Roll, n: number): Patch => {
  const type = TYPES[roll(TYPES.length)]!
  const params: Record<string, number | string> = CATALOGUE.get(type)!.description.shares
    ? { name: `tape ${CATALOGUE.get(type)!.description.shares!.as === 'keeper' ? n : roll(10)}` }
    : type === 'notes' || type === 'copy' || type === 'stack'
      ? { voices: 1 + roll(5) }
      : type === 'delayline'
        ? { max: 0.1, time: 1 + roll(40) }
        : {}
  return { ...patch, modules: [...patch.modules, { id: `m${n}`, type, params } as PatchModule] }
}

export const addCable = (patch: Patch, roll: Roll, n: number): Patch => {
  const plain = patch.modules.filter((module) => module.type !== 'group')
  const from = plain[roll(plain.length)]!,
    to = plain[roll(plain.length)]!
  const outputs = CATALOGUE.get(from.type)!.description.outputs,
    entry = CATALOGUE.get(to.type)!
  const inputs = [
    ...entry.inputs.keys(),
    ...entry.description.params
      .filter((param) => isSignalParam(param) && param.kind === 'number')
      .map((param) => param.name),
  ]
  if (outputs.length === 0 || inputs.length === 0) return patch
  return {
    ...patch,
    cables: [
      ...patch.cables,
      {
        id: `k${n}`,
        from: `${from.id}.${outputs[roll(outputs.length)]!.name}`,
        to: `${to.id}.${inputs[roll(inputs.length)]!}`,
        amount: (roll(200) - 100) / 100,
      },
    ],
  }
}

/** Puts two modules into a group, or takes a group apart: cables inside stay, the others are dropped. */
const regroup = (patch: Patch, roll: Roll): Patch => {
  const group = patch.modules.find((module) => module.type === 'group')
  if (group)
    return {
      ...patch,
      modules: [...patch.modules.filter((module) => module !== group), ...(group.inside?.modules ?? [])],
      cables: [...patch.cables, ...(group.inside?.cables ?? [])],
    }
  const free = patch.modules.filter((module) => module.id !== 'out' && module.id !== 'n')
  if (free.length < 3) return patch
  const inside = [free[roll(free.length)]!, free[roll(free.length)]!].filter(
      (module, index, list) => list.indexOf(module) === index,
    ),
    ids = new Set(inside.map((module) => module.id))
  const end = (target: string): boolean => ids.has(target.split('.')[0]!)
  return {
    ...patch,
    modules: [
      ...patch.modules.filter((module) => !ids.has(module.id)),
      {
        id: 'grp',
        type: 'group',
        inside: { modules: inside, cables: patch.cables.filter((cable) => end(cable.from) && end(cable.to)) },
      },
    ],
    cables: patch.cables.filter((cable) => !end(cable.from) && !end(cable.to)),
  }
}

/** Notes and an output, not connected. */
export const START: Patch = ((): Patch => {
  const result = checkPatch({
    format: 'ypsilon/patch',
    version: 1,
    seed: 3,
    modules: [
      { id: 'n', type: 'notes', params: { voices: 3, mode: 'poly' } },
      { id: 'out', type: 'output', params: { level: -20 } },
    ],
    cables: [],
  })
  if (!result.ok) throw new Error('the start is not valid')
  return result.value
})()

export const randomPatch = (seed: number, modules: number, cables: number): Patch => {
  const roll = dice(seed)
  let patch = START
  for (let n = 0; n < modules; n += 1) patch = addModule(patch, roll, n)
  for (let n = 0; n < cables; n += 1) patch = addCable(patch, roll, n)
  return patch
}

const without = (patch: Patch, id: string): Patch => {
  const ends = (target: string): boolean => target.startsWith(`${id}.`)
  return {
    ...patch,
    modules: patch.modules.filter((module) => module.id !== id || id === 'out'),
    cables: patch.cables.filter((cable) => !ends(cable.from) && !ends(cable.to)),
  }
}

const withModule = (patch: Patch, id: string, more: Partial<PatchModule>): Patch => ({
  ...patch,
  modules: patch.modules.map((module) => (module.id === id ? { ...module, ...more } : module)),
})

/** Kinds of edits; the last two are left to whoever keeps a history. */
export const KINDS = 14
export const UNDO = 12,
  REDO = 13

/** An edit of a kind; `n` names what it adds. */
export const edited = (patch: Patch, roll: Roll, kind: number, n: number): Patch => {
  const cable = patch.cables[roll(Math.max(1, patch.cables.length))]
  if (kind < 3 && patch.modules.length < 14) return addModule(patch, roll, n)
  if (kind < 6) return addCable(patch, roll, n)
  if (kind === 6 && patch.modules.length > 6)
    return without(patch, patch.modules[2 + roll(patch.modules.length - 2)]!.id)
  if (kind === 7 && cable) return { ...patch, cables: patch.cables.filter((other) => other !== cable) }
  if (kind === 8) {
    const notes = patch.modules.find(({ id }) => id === 'n')
    return notes ? withModule(patch, 'n', { params: { ...notes.params, voices: 1 + roll(8) } }) : patch
  }
  if (kind === 9) return regroup(patch, roll)
  if (kind === 10 && cable) {
    const now = { ...cable, muted: cable.muted !== true }
    return { ...patch, cables: patch.cables.map((other) => (other === cable ? now : other)) }
  }
  const module = patch.modules[roll(patch.modules.length)]!
  return kind === 11 && module.id !== 'out'
    ? withModule(patch, module.id, { bypass: module.bypass !== true })
    : patch
}
