/** What a slot looks at: which signal of the engine that is, how much of it, and what it is called. */
import {
  descriptionOf,
  endWords,
  labelOf,
  type NumberParam,
  own,
  paramAt,
  type Patch,
  patchIndex,
  splitTarget,
} from '@ypsilon/core'
import { OUTPUT } from '../../audio/messages.ts'
import { cablesTo } from '../cable-index.ts'
import { bringProbe } from '../later.ts'
import type { App } from '../../app/app.ts'
import { openSlots, OUTPUT_TARGET, type ProbeState, SLOT_NAMES, type SlotName } from '../../store/probe.ts'

export interface Probed {
  /** As the engine names it. */
  readonly key: string
  /** What it is multiplied by: the amount of a cable. */
  readonly gain: number
  readonly words: string
  /** Of a parameter: what its values are counted in, and where it stands while nothing moves it. */
  readonly param?: NumberParam
  readonly still?: number
  /** The output that stands for it where a patch is rendered. */
  readonly tap: string | undefined
}

const CABLE = 'cable:',
  PARAM = '>'

const probedCable = (patch: Patch, id: string): Probed | undefined => {
  const cable = patchIndex(patch).cables.find((entry) => entry.cable.id === id)?.cable
  return (
    cable && {
      key: cable.from,
      gain: cable.muted === true ? 0 : (cable.amount ?? 1),
      words: `${endWords(patch, cable.from)} → ${endWords(patch, cable.to)}`,
      tap: cable.from,
    }
  )
}

const probedParam = (patch: Patch, target: string): Probed | undefined => {
  const [id = '', name = ''] = splitTarget(target) ?? []
  const module = patchIndex(patch).module.get(id),
    known = module && descriptionOf(module)?.params.find((param) => param.name === name)
  if (!module || known?.kind !== 'number') return undefined
  const param = paramAt(known, module.params),
    value = own(module.params, name) ?? known.default
  return {
    key: `${PARAM}${target}`,
    gain: 1,
    words: `${labelOf(patch, id)} ${param.label.toLowerCase()}`,
    tap: undefined,
    ...(param.kind === 'number' ? { param } : {}),
    ...(typeof value === 'number' ? { still: value } : {}),
  }
}

const probedPort = (patch: Patch, target: string): Probed | undefined => {
  const [id = '', port = ''] = splitTarget(target) ?? []
  const module = patchIndex(patch).module.get(id)
  const exists = module && (descriptionOf(module)?.outputs.some(({ name }) => name === port) ?? false)
  return exists ? { key: target, gain: 1, words: endWords(patch, target), tap: target } : undefined
}

/** The signal of a target; undefined where it is not in the patch. */
export const probedOf = (patch: Patch, target: string): Probed | undefined => {
  if (target === OUTPUT_TARGET) return { key: OUTPUT, gain: 1, words: 'Output', tap: undefined }
  if (target.startsWith(CABLE)) return probedCable(patch, target.slice(CABLE.length))
  if (target.startsWith(PARAM)) return probedParam(patch, target.slice(PARAM.length))
  return probedPort(patch, target)
}

export const cableTarget = (id: string): string => `${CABLE}${id}`

/** The target of a row: its value, or the first cable that ends there. */
export const rowTargetOf = (patch: Patch, row: string): string | undefined => {
  const param = `${PARAM}${row}`
  if (probedOf(patch, param)) return param
  const cable = cablesTo(patch, row).find(({ id }) => id !== undefined)
  return cable && cableTarget(cable.id!)
}

/** Signals of which the probe wants every sample; none while it is not on the page. */
export const probedKeys = (patch: Patch, { slots, isSeen }: ProbeState): ReadonlySet<string> =>
  new Set(
    isSeen ? openSlots(slots).flatMap((name) => probedOf(patch, slots[name].target ?? '')?.key ?? []) : [],
  )

/** Pins a signal, and shows the probe. */
export const pin = (
  { probe, workspace }: Pick<App, 'probe' | 'workspace'>,
  target: string,
  slot?: SlotName,
): void => {
  bringProbe()
  workspace.getState().showDock('probe')
  probe.getState().pin(target, slot)
}

/** What is let go over the probe is looked at there, in the slot under the pointer; false where there is no probe. */
export const dropInProbe = (
  app: App,
  port: string,
  { x, y }: { readonly x: number; readonly y: number },
): boolean => {
  const under = document.elementFromPoint(x, y)
  if (!under?.closest('[data-probe]')) return false
  const name = under.closest<HTMLElement>('[data-slot]')?.dataset['slot']
  pin(
    app,
    port,
    SLOT_NAMES.find((slot) => slot === name),
  )
  return true
}
