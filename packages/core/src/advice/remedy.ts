/** What helps: edits that a finding offers, each one step, and questions where only the designer knows. */
import type { Draft } from 'immer'
import { CATALOGUE } from '../catalogue.ts'
import type { SignalKind } from '../describe/types.ts'
import { addModule, connect, mainOutput, removeModules } from '../patch/edits.ts'
import { descriptionOf } from '../patch/groups.ts'
import { patchIndex } from '../patch/index.ts'
import { groupsAround, levelPatch, moduleIn } from '../patch/levels.ts'
import { endWords, labelOf } from '../patch/names.ts'
import type { Fault, Patch, PatchModule } from '../patch/types.ts'
import { endsOf, splitTarget } from '../patch/walk.ts'

type D = Draft<Patch>

export interface Remedy {
  /** What is done, as a button says it: "Connect Notes gate". */
  readonly label: string
  /** The edit. */
  readonly apply?: (draft: D) => void
  /** Asks for the other end of a cable. */
  readonly ask?: { readonly from?: string; readonly to?: string }
}

/** Something found, with what helps. */
export interface Finding extends Fault {
  readonly remedies: readonly Remedy[]
}

/** A finding whose remedies are worked out when they are asked for: thousands may be found at once. */
export const finding = (place: string, message: string, remedies: () => readonly Remedy[]): Finding => {
  let made: readonly Remedy[] | undefined
  return {
    place,
    message,
    get remedies() {
      made ??= remedies()
      return made
    },
  }
}

export const connecting = (patch: Patch, from: string, to: string): Remedy => ({
  label: `Connect ${endWords(patch, from)}`,
  apply: (draft) => {
    connect(draft, from, to)
  },
})
export const asking = (ends: NonNullable<Remedy['ask']>): Remedy => ({ label: 'Connect …', ask: ends })

export const setting = (
  label: string,
  id: string,
  name: string,
  value: number | string | boolean,
): Remedy => ({
  label,
  apply: (draft) => {
    const module = moduleIn(draft, id)
    if (module) module.params = { ...module.params, [name]: value }
  },
})

/** A field goes back to its default. */
export const resetting = (id: string, name: string, label: string): Remedy => ({
  label: `Reset ${label.toLowerCase()}`,
  apply: (draft) => {
    const module = moduleIn(draft, id)
    if (module?.params)
      module.params = Object.fromEntries(Object.entries(module.params).filter(([param]) => param !== name))
  },
})

export const removing = (patch: Patch, id: string): Remedy => ({
  label: `Delete ${labelOf(patch, id)}`,
  apply: (draft) => {
    removeModules(draft, new Set([id]))
  },
})

/** Where something new goes beside a module. */
const besideOf = (patch: Patch, id: string, side: 1 | -1): { readonly x: number; readonly y: number } => {
  const { x = 0, y = 0 } = patchIndex(patch).module.get(id) ?? {}
  return { x: x + side * 264, y: side < 0 ? y + 144 : y }
}

/** A new module beside another, wired to it; `ends`: cables with the new one's id as `*`. */
export const adding = (
  patch: Patch,
  type: string,
  beside: { readonly id: string; readonly side: 1 | -1 },
  ends: readonly (readonly [from: string, to: string])[],
  params?: Readonly<Record<string, number | string | boolean>>,
): Remedy => ({
  label: `Add ${CATALOGUE.get(type)?.description.label ?? type}`,
  apply: (draft) => {
    const { x, y } = besideOf(patch, beside.id, beside.side)
    const id = addModule(draft, type, x, y, groupsAround(patch, beside.id).at(-1))
    const module = moduleIn(draft, id)
    if (module && params) module.params = { ...params }
    for (const [from, to] of ends) connect(draft, from.replace('*', id), to.replace('*', id))
  },
})

/** Outputs that lead nowhere. */
const looseOutput = (patch: Patch, module: PatchModule, kind: SignalKind): string | undefined => {
  const output = mainOutput(module)
  if (output?.kind !== kind) return undefined
  const isUsed = patchIndex(patch).cables.some(({ cable }) => endsOf(cable).fromModule === module.id)
  return isUsed ? undefined : `${module.id}.${output.name}`
}

const leftTo = (patch: Patch, to: string): ((a: PatchModule, b: PatchModule) => number) => {
  const { x = 0, y = 0 } = patchIndex(patch).module.get(splitTarget(to)?.[0] ?? '') ?? {}
  const far = (module: PatchModule): number => {
    const dx = x - (module.x ?? 0),
      dy = y - (module.y ?? 0)
    // What stands to the right feeds the left but seldom.
    return Math.sqrt(dx * dx + dy * dy) + (dx < 0 ? 2000 : 0)
  }
  return (a, b) => far(a) - far(b)
}

const outputsOfKind = (module: PatchModule, kind: SignalKind): string | undefined =>
  descriptionOf(module)?.outputs.find((output) => output.kind === kind)?.name

/** What most likely belongs on an input: notes for gates and pitches, for sound what leads nowhere yet. */
export const sourcesFor = (patch: Patch, to: string, kind: SignalKind): readonly string[] => {
  const [target = ''] = splitTarget(to) ?? []
  const { modules } = levelPatch(patch, groupsAround(patch, target).at(-1))
  const others = modules.filter(({ id }) => id !== target).sort(leftTo(patch, to))
  if (kind === 'gate' || kind === 'pitch') {
    const isNotes = (module: PatchModule): boolean => descriptionOf(module)?.role === 'notes'
    const inOrder = [...others.filter(isNotes), ...others.filter((module) => !isNotes(module))]
    return inOrder.flatMap((module) => {
      const name = outputsOfKind(module, kind)
      return name === undefined ? [] : [`${module.id}.${name}`]
    })
  }
  return others.flatMap((module) => looseOutput(patch, module, kind) ?? [])
}

/** Remedies for an input that nothing comes to. */
export const feeding = (patch: Patch, to: string): Remedy[] => {
  const [id = '', name = ''] = splitTarget(to) ?? []
  const module = patchIndex(patch).module.get(id)
  const input = module && descriptionOf(module)?.inputs.find((port) => port.name === name)
  const [best] = input ? sourcesFor(patch, to, input.kind) : []
  return [...(best === undefined ? [] : [connecting(patch, best, to)]), asking({ to })]
}

/** The last sound, by where it stands, and a new output for it. */
export const addingOutput = (patch: Patch): Remedy => {
  const last = patch.modules
    .flatMap((module) => {
      const port = outputsOfKind(module, 'audio')
      return port === undefined ? [] : [{ id: module.id, x: module.x ?? 0, port }]
    })
    .sort((a, b) => b.x - a.x)[0]
  return adding(
    patch,
    'output',
    { id: last?.id ?? '', side: 1 },
    last ? [[`${last.id}.${last.port}`, '*.in']] : [],
  )
}

/** What leads nowhere goes to the output, or away. */
export const leadingOut = (patch: Patch, id: string, output: string): Remedy[] => {
  const module = patchIndex(patch).module.get(id),
    loose = module && looseOutput(patch, module, 'audio')
  return [
    ...(loose === undefined
      ? []
      : [
          {
            label: `Connect it to ${labelOf(patch, output)}`,
            apply: (draft: D): void => {
              connect(draft, loose, `${output}.in`)
            },
          },
        ]),
    ...(module ? [removing(patch, id)] : []),
  ]
}
