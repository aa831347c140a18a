/** What is valid among macros, snapshots, controllers and blends and yet probably not meant. */
import { CATALOGUE } from '../catalogue.ts'
import { fieldFormulas, referencesOf } from '../patch/formulas.ts'
import { patchIndex } from '../patch/index.ts'
import { givenBy, ownership, steppedValue } from '../patch/macros.ts'
import { setValueOf, targetOf, wholeRange } from '../patch/targets.ts'
import { type Fault, type Macro, oneLine, type Patch, type Snapshot } from '../patch/types.ts'
import { blendLeavesOut } from '../perform/recall.ts'

/** Relative difference that a field and its macro may have. */
const CLOSE = 0.01

const told = (value: unknown): string =>
  typeof value === 'number' ? String(Number(value.toPrecision(4))) : String(value)

/** Findings of one macro or snapshot that are told; the rest is counted. */
const MOST_TOLD = 8
const shortList = (faults: readonly Fault[]): Fault[] =>
  faults.length <= MOST_TOLD
    ? [...faults]
    : [
        ...faults.slice(0, MOST_TOLD),
        { place: faults[0]!.place, message: `the same for ${faults.length - MOST_TOLD} more targets` },
      ]

/** Fields that are set to something else than what their macro gives them. */
const macroFindings = (patch: Patch, macro: Macro): Fault[] => {
  const place = `macro ${macro.id}`
  return (ownership(patch).owned.get(macro.id) ?? []).flatMap((target): Fault[] => {
    const found = targetOf(patch, target.param),
      set = setValueOf(patch, target.param)
    const given = givenBy(patch, target, steppedValue(macro, macro.value))
    if (given === undefined || set === undefined) return []
    const [low, high] = wholeRange(found)
    const isNumber = found.kind === 'param' && found.param.kind === 'number'
    if (isNumber && (Math.min(target.from, target.to) < low || Math.max(target.from, target.to) > high))
      return [
        { place, message: `its range for ${target.param} leaves ${low}…${high}; what is beyond is cut off` },
      ]
    const scale = isNumber ? Math.max(Math.abs(Number(given)), (high - low) * CLOSE) : Math.abs(Number(given))
    const differs = typeof given === 'number' ? Math.abs(given - Number(set)) > CLOSE * scale : given !== set
    return differs && !target.param.startsWith('macro:')
      ? [
          {
            place,
            message: `at ${macro.value} it gives ${target.param} ${told(given)}, which is set to ${told(set)}`,
          },
        ]
      : []
  })
}

/** Macros that move nothing and that no formula reads. */
const idleMacros = (patch: Patch): Fault[] => {
  const read = new Set(fieldFormulas(patch, CATALOGUE).flatMap(({ value }) => referencesOf(value)))
  const { owned } = ownership(patch)
  return (patch.macros ?? [])
    .filter(({ id }) => !owned.has(id) && !read.has(`macro:${id}`))
    .map(({ id }) => ({
      place: `macro ${id}`,
      message: 'moves nothing, and no formula reads it. Give it a target',
    }))
}

const snapshotFindings = (patch: Patch, { id, params, bypass }: Snapshot): Fault[] => {
  const { owner } = ownership(patch),
    { module: modules } = patchIndex(patch)
  const owned = Object.keys(params ?? {}).filter(
    (target) => owner.has(target) && !target.startsWith('macro:'),
  )
  return [
    ...owned.map((target) => ({
      place: `snapshot ${id}`,
      message: `${target} is moved by the macro ${oneLine(owner.get(target)!.macro.name)} and is not recalled; let the snapshot hold macro:${owner.get(target)!.macro.id}`,
    })),
    ...Object.keys(bypass ?? {})
      .filter((name) => {
        const entry = CATALOGUE.get(modules.get(name)?.type ?? '')
        return entry !== undefined && entry.description.bypass === undefined
      })
      .map((name) => ({
        place: `snapshot ${id}`,
        message: `${name} cannot be bypassed: it has no sound in and out`,
      })),
  ]
}

const sharedKeys = (snapshots: readonly Snapshot[]): Fault[] =>
  snapshots.flatMap(({ id, key }, index) => {
    const first = key === undefined ? undefined : snapshots.slice(0, index).find((other) => other.key === key)
    return first
      ? [
          {
            place: `snapshot ${id}`,
            message: `its key ${String(key)} is also that of ${first.id}, which answers to it`,
          },
        ]
      : []
  })

const controllerFindings = (patch: Patch): Fault[] =>
  (patch.controllers ?? []).flatMap(({ target }, index) => {
    const owner = ownership(patch).owner.get(target)
    return owner
      ? [
          {
            place: `controllers[${index}]`,
            message: `moves ${target}, which the macro ${oneLine(owner.macro.name)} moves as well; let it move macro:${owner.macro.id}`,
          },
        ]
      : []
  })

const blendFindings = (patch: Patch): Fault[] =>
  (patch.stage?.items ?? []).flatMap((item) => {
    const left = item.kind === 'blend' ? blendLeavesOut(patch, item) : []
    return left.length > 0
      ? [
          {
            place: `blend ${item.id}`,
            message: `leaves out ${left.join(', ')}: formulas, and what is set only, have nothing between`,
          },
        ]
      : []
  })

export const playingFindings = (patch: Patch): Fault[] => [
  ...(patch.macros ?? []).flatMap((macro) => shortList(macroFindings(patch, macro))),
  ...idleMacros(patch),
  ...(patch.snapshots ?? []).flatMap((snapshot) => shortList(snapshotFindings(patch, snapshot))),
  ...sharedKeys(patch.snapshots ?? []),
  ...controllerFindings(patch),
  ...blendFindings(patch),
]
