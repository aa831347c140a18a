/** Why nothing is heard: from the output back to the first dead place, with what would help. */
import { CATALOGUE } from '../catalogue.ts'
import { needsOf } from '../describe/needs.ts'
import type { ModuleDescription } from '../describe/types.ts'
import { removeCables } from '../patch/edits.ts'
import { descriptionOf } from '../patch/groups.ts'
import { patchIndex } from '../patch/index.ts'
import { cableIn } from '../patch/levels.ts'
import { labelOf } from '../patch/names.ts'
import type { Cable, Patch, PatchModule } from '../patch/types.ts'
import { endsOf } from '../patch/walk.ts'
import { own } from '../units/own.ts'
import {
  adding,
  addingOutput,
  asking,
  connecting,
  feeding,
  type Finding,
  type Remedy,
  removing,
  resetting,
  sourcesFor,
} from './remedy.ts'

/** What was measured; see `render/heard.ts`. */
export interface Measured {
  readonly ports: ReadonlyMap<string, number>
  readonly output: number
}

export interface Silence {
  /** Found where it is dead; undefined where it sounds. */
  readonly finding: Finding | undefined
  /** Modules from the output back to that place. */
  readonly path: readonly string[]
  /** Cables between them. */
  readonly cables: readonly string[]
  /** Level of the output, in dB; -Infinity: nothing at all. */
  readonly levelDb: number
}

/** Below this nobody hears anything: −80 dB. */
const ALIVE = 1e-4

interface Walk {
  readonly patch: Patch
  readonly heard: Measured
  readonly path: string[]
  readonly cables: string[]
}

const cablesInto = (patch: Patch, id: string, port?: string): Cable[] =>
  patch.cables.filter((cable) => {
    const { toModule, toPort } = endsOf(cable)
    return toModule === id && (port === undefined || toPort === port)
  })
const levelOf = ({ heard }: Walk, { from, amount = 1, muted }: Cable): number =>
  muted === true ? 0 : (heard.ports.get(from) ?? 0) * Math.abs(amount)
const describe = (module: PatchModule): ModuleDescription | undefined => descriptionOf(module)

/** Inputs a module's sound comes in by. */
const soundInputs = (module: PatchModule): string[] =>
  (describe(module)?.inputs ?? []).filter(({ kind }) => kind === 'audio').map(({ name }) => name)

const ended = (walk: Walk, place: string, message: string, remedies: readonly Remedy[]): Silence => ({
  finding: { place, message, remedies },
  path: walk.path,
  cables: walk.cables,
  levelDb: 20 * Math.log10(walk.heard.output),
})

/** A cable that lets nothing through although its source sounds. */
const deadCable = (walk: Walk, id: string): Silence | undefined => {
  const { patch, heard } = walk
  const dead = cablesInto(patch, id).find(
    (cable) =>
      soundInputs(patchIndex(patch).module.get(id)!).includes(endsOf(cable).toPort) &&
      (heard.ports.get(cable.from) ?? 0) > ALIVE &&
      levelOf(walk, cable) <= ALIVE,
  )
  if (!dead) return undefined
  if (dead.id !== undefined) walk.cables.push(dead.id)
  const { fromModule } = endsOf(dead)
  walk.path.push(fromModule)
  const isMuted = dead.muted === true
  return ended(
    walk,
    `${dead.from} > ${dead.to}`,
    isMuted
      ? `the cable from ${labelOf(patch, fromModule)} is muted`
      : `the cable from ${labelOf(patch, fromModule)} has the amount 0`,
    [
      {
        label: isMuted ? 'Let it through' : 'Set its amount to 1',
        apply: (draft) => {
          const cable = cableIn(draft, dead.id)
          if (cable && isMuted) delete cable.muted
          else if (cable) cable.amount = 1
        },
      },
    ],
  )
}

/** Settings that differ from the defaults: one of them keeps it silent. */
const changedSettings = (module: PatchModule): Remedy[] => {
  const description = describe(module)
  return (description?.params ?? [])
    .filter((param) => {
      const value = own(module.params, param.name)
      return value !== undefined && value !== param.default
    })
    .slice(0, 4)
    .map((param) => resetting(module.id, param.name, param.label))
}

/** What opens it and does not: an envelope that is never opened, a control at rest. */
const closedWords = (walk: Walk, module: PatchModule): Silence | undefined => {
  const { patch } = walk
  const { closedBy } = describe(module) ?? {}
  if (closedBy === undefined) return undefined
  const into = cablesInto(patch, module.id, closedBy)
  if (into.length === 0 || into.some((cable) => levelOf(walk, cable) > ALIVE)) return undefined
  const [cable] = into
  const source = patchIndex(patch).module.get(endsOf(cable!).fromModule)
  if (!source) return undefined
  walk.path.push(source.id)
  if (cable!.id !== undefined) walk.cables.push(cable!.id)
  return (
    gateWords(walk, source) ??
    ended(walk, source.id, `stays at 0, and so ${labelOf(patch, module.id)} stays closed`, [
      ...changedSettings(source),
      {
        label: 'Take its cable off',
        apply: (draft) => {
          removeCables(draft, new Set([cable!.id ?? '']))
        },
      },
    ])
  )
}

/** A module that waits for a gate that never comes. */
const gateWords = (walk: Walk, module: PatchModule): Silence | undefined => {
  const { patch } = walk
  const gates = (describe(module)?.inputs ?? []).filter(({ kind }) => kind === 'gate')
  const [gate] = gates
  if (
    !gate ||
    gates.some(({ name }) => cablesInto(patch, module.id, name).some((cable) => levelOf(walk, cable) > ALIVE))
  )
    return undefined
  const to = `${module.id}.${gate.name}`,
    into = cablesInto(patch, module.id, gate.name)
  if (into.length === 0) {
    const [best] = sourcesFor(patch, to, 'gate')
    return ended(walk, to, `never opens: nothing is connected to its ${gate.name}`, [
      ...(best === undefined ? [] : [connecting(patch, best, to)]),
      ...(best === undefined ? [adding(patch, 'notes', { id: module.id, side: -1 }, [['*.gate', to]])] : []),
      asking({ to }),
    ])
  }
  const from = endsOf(into[0]!).fromModule
  walk.path.push(from)
  if (into[0]!.id !== undefined) walk.cables.push(into[0]!.id)
  const source = patchIndex(patch).module.get(from)
  const deeper = source && needsWords(walk, source)
  return (
    deeper ??
    ended(
      walk,
      into[0]!.from,
      `never opens ${labelOf(patch, module.id)}: no gate comes from it while a note is held`,
      [
        ...(source ? changedSettings(source) : []),
        ...sourcesFor(patch, to, 'gate')
          .filter((other) => other !== into[0]!.from)
          .slice(0, 1)
          .map((other) => connecting(patch, other, to)),
      ],
    )
  )
}

/** An input that matters and has no cable. */
const needsWords = (walk: Walk, module: PatchModule): Silence | undefined => {
  const description = CATALOGUE.get(module.type)?.description
  const need = description
    ? needsOf(description).find(({ any }) =>
        any.every((name) => cablesInto(walk.patch, module.id, name).length === 0),
      )
    : undefined
  if (!need) return undefined
  const to = `${module.id}.${need.any[0]!}`
  return ended(walk, to, need.message, feeding(walk.patch, to))
}

/** A module in which a sound that comes in does not come out, or that should sound by itself. */
const deadModule = (walk: Walk, module: PatchModule, isFed: boolean): Silence => {
  const { patch } = walk
  const found =
    closedWords(walk, module) ?? (isFed ? undefined : needsWords(walk, module)) ?? gateWords(walk, module)
  if (found) return found
  const settings = changedSettings(module)
  return ended(
    walk,
    module.id,
    isFed ? 'lets nothing through as it is set' : 'makes no sound as it is set',
    settings.length > 0 ? settings : [removing(patch, module.id)],
  )
}

/** Goes back from a module whose sound is dead. */
const backFrom = (walk: Walk, id: string): Silence => {
  const { patch, path, cables } = walk
  if (path.includes(id)) return ended(walk, id, 'stands in a ring in which nothing sounds', [])
  path.push(id)
  const module = patchIndex(patch).module.get(id)
  if (!module) return ended(walk, id, 'is not known here', [])
  const inputs = soundInputs(module),
    into = cablesInto(patch, id).filter((cable) => inputs.includes(endsOf(cable).toPort))
  if (into.some((cable) => levelOf(walk, cable) > ALIVE)) return deadModule(walk, module, true)
  const dead = deadCable(walk, id)
  if (dead) return dead
  const [next] = into
  if (next && !hasOwnSound(module)) {
    if (next.id !== undefined) cables.push(next.id)
    return backFrom(walk, endsOf(next).fromModule)
  }
  return deadModule(walk, module, false)
}
/** Sources sound without anything coming in. */
const hasOwnSound = (module: PatchModule): boolean => {
  const { family, sounds } = describe(module) ?? {}
  return family === 'sources' && sounds === true
}

const isOutput = (module: PatchModule): boolean => describe(module)?.role === 'output'

/** Nothing is there that sends sound out. */
const withoutOutput = (patch: Patch, walk: Walk): Silence =>
  ended(walk, 'patch', 'there is no output: nothing can be heard', [addingOutput(patch)])

/** From the output back to the first place at which the sound is dead. Groups are to be taken apart first (`ungrouped`). */
export const whySilent = (patch: Patch, heard: Measured): Silence => {
  const walk: Walk = { patch, heard, path: [], cables: [] }
  const outputs = patch.modules.filter(isOutput)
  if (outputs.length === 0) return withoutOutput(patch, walk)
  if (heard.output > ALIVE)
    return { finding: undefined, path: [], cables: [], levelDb: 20 * Math.log10(heard.output) }
  // The one with most connected to it is the one that is meant.
  const [output] = [...outputs].sort(
    (a, b) => cablesInto(patch, b.id).length - cablesInto(patch, a.id).length,
  )
  const into = cablesInto(patch, output!.id)
  if (into.length > 0) return backFrom(walk, output!.id)
  walk.path.push(output!.id)
  const to = `${output!.id}.in`
  const sounding = [...heard.ports]
    .filter(([port, level]) => level > ALIVE && isSound(patch, port))
    .sort(([a], [b]) => lateness(patch, b) - lateness(patch, a))
    .map(([port]) => port)
  return ended(walk, to, 'nothing is connected to the output', [
    ...(sounding[0] === undefined ? [] : [connecting(patch, sounding[0], to)]),
    ...(sounding[0] === undefined ? feeding(patch, to).slice(0, -1) : []),
    asking({ to }),
  ])
}

const isSound = (patch: Patch, port: string): boolean => {
  const { fromModule, fromPort } = endsOf({ from: port, to: '' })
  const module = patchIndex(patch).module.get(fromModule)
  return (
    module !== undefined && describe(module)?.outputs.find(({ name }) => name === fromPort)?.kind === 'audio'
  )
}
/** How near to the output: what leads nowhere, then what stands farthest right. */
const lateness = (patch: Patch, port: string): number => {
  const { fromModule } = endsOf({ from: port, to: '' })
  const leads = patch.cables.some((cable) => endsOf(cable).fromModule === fromModule)
  return (patchIndex(patch).module.get(fromModule)?.x ?? 0) - (leads ? 1e6 : 0)
}
