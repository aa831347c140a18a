/** What is valid among macros, snapshots, controllers and blends and yet probably not meant. */
import { CATALOGUE } from '../catalogue.ts'
import { fieldFormulas, referencesOf } from '../patch/formulas.ts'
import { patchIndex } from '../patch/index.ts'
import { moduleIn } from '../patch/levels.ts'
import { givenBy, ownership, steppedValue } from '../patch/macros.ts'
import { setValueOf, targetOf, wholeRange } from '../patch/targets.ts'
import { splitTarget } from '../patch/walk.ts'
import { type Macro, oneLine, type Patch, type Snapshot } from '../patch/types.ts'
import { blendLeavesOut } from '../perform/recall.ts'
import { type Finding, type Remedy, setting } from './remedy.ts'

/** Relative difference that a field and its macro may have. */
const CLOSE = 0.01

const told = (value: unknown): string =>
  typeof value === 'number' ? String(Number(value.toPrecision(4))) : String(value)

/** Findings of one macro or snapshot that are told; the rest is counted. */
const MOST_TOLD = 8
const shortList = (faults: readonly Finding[]): Finding[] =>
  faults.length <= MOST_TOLD
    ? [...faults]
    : [
        ...faults.slice(0, MOST_TOLD),
        {
          place: faults[0]!.place,
          message: `the same for ${faults.length - MOST_TOLD} more targets`,
          remedies: helpingAll(faults),
        },
      ]

/** What helps each of many, in one step. */
const helpingAll = (faults: readonly Finding[]): Remedy[] => {
  const each = faults.flatMap(({ remedies }) => remedies.find(({ apply }) => apply) ?? [])
  return each.length > 0
    ? [
        {
          label: `Do so for all ${each.length}`,
          apply: (draft) => {
            for (const { apply } of each) apply!(draft)
          },
        },
      ]
    : []
}

/** The field takes what its macro gives it. */
const settingTo = (target: string, given: number | string | boolean): Remedy[] => {
  const [id = '', name = ''] = splitTarget(target) ?? []
  return id.includes(':') || name === '' ? [] : [setting(`Set it to ${told(given)}`, id, name, given)]
}

/** A macro's range stays within what its target can be. */
const keepingWithin = (id: string, param: string, low: number, high: number): Remedy => ({
  label: 'Keep its range within',
  apply: (draft) => {
    const target = draft.macros
      ?.find((macro) => macro.id === id)
      ?.targets?.find((item) => item.param === param)
    if (!target) return
    target.from = Math.min(high, Math.max(low, target.from))
    target.to = Math.min(high, Math.max(low, target.to))
  },
})

/** A snapshot holds the macro instead of what that moves. */
const holdingMacro = (id: string, target: string, macro: Macro): Remedy => ({
  label: `Hold ${oneLine(macro.name)} instead`,
  apply: (draft) => {
    const snapshot = draft.snapshots?.find((item) => item.id === id)
    if (!snapshot?.params) return
    const { [target]: _, ...params } = snapshot.params
    snapshot.params = { ...params, [`macro:${macro.id}`]: params[`macro:${macro.id}`] ?? macro.value }
  },
})

const leavingBypass = (id: string, name: string): Remedy => ({
  label: 'Leave it out',
  apply: (draft) => {
    const snapshot = draft.snapshots?.find((item) => item.id === id)
    if (snapshot?.bypass)
      snapshot.bypass = Object.fromEntries(
        Object.entries(snapshot.bypass).filter(([module]) => module !== name),
      )
  },
})

/** Fields that are set to something else than what their macro gives them. */
const macroFindings = (patch: Patch, macro: Macro): Finding[] => {
  const place = `macro ${macro.id}`
  return (ownership(patch).owned.get(macro.id) ?? []).flatMap((target): Finding[] => {
    const found = targetOf(patch, target.param),
      set = setValueOf(patch, target.param)
    const given = givenBy(patch, target, steppedValue(macro, macro.value))
    if (given === undefined || set === undefined) return []
    const [low, high] = wholeRange(found)
    const isNumber = found.kind === 'param' && found.param.kind === 'number'
    if (isNumber && (Math.min(target.from, target.to) < low || Math.max(target.from, target.to) > high))
      return [
        {
          place,
          message: `its range for ${target.param} leaves ${low}…${high}; what is beyond is cut off`,
          remedies: [keepingWithin(macro.id, target.param, low, high)],
        },
      ]
    const scale = isNumber ? Math.max(Math.abs(Number(given)), (high - low) * CLOSE) : Math.abs(Number(given))
    const differs = typeof given === 'number' ? Math.abs(given - Number(set)) > CLOSE * scale : given !== set
    return differs && !target.param.startsWith('macro:')
      ? [
          {
            place,
            message: `at ${macro.value} it gives ${target.param} ${told(given)}, which is set to ${told(set)}`,
            remedies: settingTo(target.param, given),
          },
        ]
      : []
  })
}

/** Macros that move nothing and that no formula reads. */
const idleMacros = (patch: Patch): Finding[] => {
  const read = new Set(fieldFormulas(patch, CATALOGUE).flatMap(({ value }) => referencesOf(value)))
  const { owned } = ownership(patch)
  return (patch.macros ?? [])
    .filter(({ id }) => !owned.has(id) && !read.has(`macro:${id}`))
    .map(({ id }) => ({
      place: `macro ${id}`,
      message: 'moves nothing, and no formula reads it. Give it a target',
      remedies: [
        {
          label: 'Delete the macro',
          apply: (draft) => {
            draft.macros = (draft.macros ?? []).filter((macro) => macro.id !== id)
          },
        },
      ],
    }))
}

const snapshotFindings = (patch: Patch, { id, params, bypass }: Snapshot): Finding[] => {
  const { owner } = ownership(patch),
    { module: modules } = patchIndex(patch)
  const owned = Object.keys(params ?? {}).filter(
    (target) => owner.has(target) && !target.startsWith('macro:'),
  )
  return [
    ...owned.map((target) => ({
      place: `snapshot ${id}`,
      message: `${target} is moved by the macro ${oneLine(owner.get(target)!.macro.name)} and is not recalled; let the snapshot hold macro:${owner.get(target)!.macro.id}`,
      remedies: [holdingMacro(id, target, owner.get(target)!.macro)],
    })),
    ...Object.keys(bypass ?? {})
      .filter((name) => {
        const entry = CATALOGUE.get(modules.get(name)?.type ?? '')
        return entry !== undefined && entry.description.bypass === undefined
      })
      .map((name) => ({
        place: `snapshot ${id}`,
        message: `${name} cannot be bypassed: it has no sound in and out`,
        remedies: [leavingBypass(id, name)],
      })),
  ]
}

const sharedKeys = (snapshots: readonly Snapshot[]): Finding[] =>
  snapshots.flatMap(({ id, key }, index) => {
    const first = key === undefined ? undefined : snapshots.slice(0, index).find((other) => other.key === key)
    return first
      ? [
          {
            place: `snapshot ${id}`,
            message: `its key ${String(key)} is also that of ${first.id}, which answers to it`,
            remedies: [
              {
                label: 'Take its key off',
                apply: (draft) => {
                  const snapshot = draft.snapshots?.[index]
                  if (snapshot) delete snapshot.key
                },
              },
            ],
          },
        ]
      : []
  })

const controllerFindings = (patch: Patch): Finding[] =>
  (patch.controllers ?? []).flatMap(({ target }, index) => {
    const owner = ownership(patch).owner.get(target)
    return owner
      ? [
          {
            place: `controllers[${index}]`,
            message: `moves ${target}, which the macro ${oneLine(owner.macro.name)} moves as well; let it move macro:${owner.macro.id}`,
            remedies: [
              {
                label: `Let it move ${oneLine(owner.macro.name)}`,
                apply: (draft) => {
                  const controller = draft.controllers?.[index]
                  if (controller) controller.target = `macro:${owner.macro.id}`
                },
              },
            ],
          },
        ]
      : []
  })

/** Some snapshots do not hold some targets any more; those that hold modules as wholes hold all else of them. */
const leavingOut = (snapshots: ReadonlySet<string>, targets: ReadonlySet<string>): Remedy => ({
  label: `Leave ${targets.size === 1 ? 'it' : 'them'} out of the snapshots`,
  apply: (draft) => {
    for (const snapshot of draft.snapshots ?? []) {
      if (!snapshots.has(snapshot.id)) continue
      if (snapshot.params)
        snapshot.params = Object.fromEntries(
          Object.entries(snapshot.params).filter(([target]) => !targets.has(target)),
        )
      if (snapshot.scope)
        snapshot.scope = snapshot.scope.flatMap((one) =>
          [...targets].some((target) => splitTarget(target)?.[0] === one)
            ? restOf(moduleIn(draft, one)?.type, one, targets)
            : targets.has(one)
              ? []
              : [one],
        )
    }
  },
})

/** All parameters of a module but some, as targets. */
const restOf = (type: string | undefined, id: string, targets: ReadonlySet<string>): string[] =>
  [...(CATALOGUE.get(type ?? '')?.params.keys() ?? [])]
    .map((name) => `${id}.${name}`)
    .filter((target) => !targets.has(target))

const blendFindings = (patch: Patch): Finding[] =>
  (patch.stage?.items ?? []).flatMap((item) => {
    const left = item.kind === 'blend' ? blendLeavesOut(patch, item) : []
    return left.length > 0
      ? [
          {
            place: `blend ${item.id}`,
            message: `leaves out ${left.join(', ')}: formulas, and what is set only, have nothing between`,
            remedies: [
              leavingOut(new Set((item.marks ?? []).map(({ snapshot }) => snapshot)), new Set(left)),
            ],
          },
        ]
      : []
  })

export const playingFindings = (patch: Patch): Finding[] => [
  ...(patch.macros ?? []).flatMap((macro) => shortList(macroFindings(patch, macro))),
  ...idleMacros(patch),
  ...(patch.snapshots ?? []).flatMap((snapshot) => shortList(snapshotFindings(patch, snapshot))),
  ...sharedKeys(patch.snapshots ?? []),
  ...controllerFindings(patch),
  ...blendFindings(patch),
]
