/** What the scene shows, as the components on the chart read it, and what it needs of the page. */
import { type Cable, cardOf, type Patch, type PatchModule, splitTarget } from '@ypsilon/core'
import { inFocus } from '../../app/level.ts'
import type { DocumentStore } from '../../store/document.ts'
import type { ProbeStore } from '../../store/probe.ts'
import type { WorkspaceState, WorkspaceStore } from '../../store/workspace.ts'
import type { Frames } from '../frames.ts'
import type { DrawnCable } from './places.ts'
import type { DrawingEngine } from './drawing.ts'
import type { Distance } from './distance.ts'
import type { Loupe } from './loupes.ts'
import { isSameGround, type Places } from './places.ts'
import type { Box, Point, Route } from './routing.ts'
import type { SeenCard } from './seen.ts'
import { touches } from './viewport.ts'

/** A port or a cable under the pointer. */
export interface Pointed {
  readonly port?: string
  readonly side?: 'in' | 'out'
  /** Where the port is in the frame. */
  readonly at?: Point
  readonly cable?: string
}

export const isSamePointed = (a: Pointed, b: Pointed): boolean =>
  a.port === b.port && a.cable === b.cable && a.at?.x === b.at?.x && a.at?.y === b.at?.y

export interface SceneState {
  readonly seen: readonly SeenCard[]
  readonly distance: Distance
  /** Cables in view and around it. */
  readonly cables: readonly DrawnCable[]
  /** What the pointer is over. */
  readonly pointed: Pointed
  /** Chart pixels that a pixel of the screen is, in text of soundings. */
  readonly scale: number
  readonly loupes: readonly Loupe[]
  /** Counts the times the view has come to rest, for what stands in its pixels. */
  readonly rests: number
}

export interface SceneParts {
  readonly probe: ProbeStore
  readonly document: DocumentStore
  readonly workspace: WorkspaceStore
  readonly frames: Frames
  readonly engine: DrawingEngine & {
    readonly pictures: { watch(keys: readonly string[], whole: ReadonlySet<string>): void }
  }
}

/** Are the same cards seen where they were, whatever is set on them? */
export const isSameSeen = (a: readonly SeenCard[], b: readonly SeenCard[]): boolean =>
  a === b ||
  (a.length === b.length &&
    a.every(({ card, hasRows }, index) => {
      const other = b[index]!
      return hasRows === other.hasRows && card.id === other.card.id && isSameGround(card, other.card)
    }))

/** Cables that touch an area, with their ways; those that did not change keep their object. */
export const drawnCables = (
  { cables }: Places,
  routes: ReadonlyMap<string, Route>,
  area: Box,
  before: readonly DrawnCable[],
): readonly DrawnCable[] => {
  const old = new Map(before.map((cable) => [cable.id, cable]))
  const next: DrawnCable[] = []
  for (const placed of cables.values()) {
    const route = routes.get(placed.id)
    if (!route || !touches(route.box, area)) continue
    const was = old.get(placed.id)
    const isSame = was?.route === route && was.cable === placed.cable && was.kind === placed.kind
    next.push(isSame ? was : { ...placed, route })
  }
  const isSame = next.length === before.length && next.every((cable, index) => cable === before[index])
  return isSame ? before : next
}

/** Does a card stand on the way that is lit, or does something in it? */
export const isOnWay = (path: readonly string[], { id, inside }: PatchModule): boolean =>
  path.includes(id) || (inside?.modules.some((inner) => isOnWay(path, inner)) ?? false)

/** Does a cable begin or end at a card? */
const isOf = (patch: Patch, { from, to }: Cable, id: string): boolean =>
  [from, to].some((end) => cardOf(patch, end)?.id === id)

/** Is another part of the patch shown, or otherwise? */
export const isOtherView = (a: WorkspaceState, b: WorkspaceState): boolean =>
  a.open !== b.open || a.group !== b.group || a.focus !== b.focus

/** Cables of the way back from the output, and those that lead it through ports of groups; undefined where none is lit. */
export const wayOf = (
  silence: WorkspaceState['silence'],
  focus: string | undefined,
  { patch, cables, cards }: Places,
): ReadonlySet<string> | undefined => {
  if (focus !== undefined && inFocus(patch, focus))
    return new Set([...cables.values()].filter(({ cable }) => isOf(patch, cable, focus)).map(({ id }) => id))
  if (typeof silence !== 'object' || !silence.finding) return undefined
  const way = new Set(silence.cables)
  const on = (target: string): PatchModule | undefined => {
    const module = cards.get(splitTarget(target)?.[0] ?? '')?.module
    return module && (module.type === 'portout' || isOnWay(silence.path, module)) ? module : undefined
  }
  for (const { id, source, target } of cables.values()) {
    const from = on(source),
      to = on(target)
    if (from && to && (from.inside || to.inside || to.type === 'portout')) way.add(id)
  }
  return way
}

export const NOBODY: ReadonlySet<string> = new Set()
