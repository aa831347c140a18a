/** What has become of the patch since a version, shown on the chart: what is new, what is other, what is gone. */
import {
  CARD_WIDTH,
  cardLayout,
  differences,
  type Differences,
  differenceWords,
  labelOf,
  levelPatch,
  moduleLabel,
  type Patch,
  type PatchModule,
  splitTarget,
  usedRows,
} from '@ypsilon/core'
import { X } from 'lucide-react'
import { useEffect, useMemo } from 'react'
import { useApp, useDocument, useWorkspace } from '../app/context.ts'
import { restoreVersion } from '../app/restore.ts'
import type { Compared } from '../store/workspace.ts'
import { Button, IconButton } from '../ui/button.tsx'
import type { PlacedCard } from './chart/places.ts'
import { useScene, useSceneState } from './scene-context.ts'

/** Lines under a card at the most. */
const MOST_LINES = 4

interface Box {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
}

const boxOf = ({ x, y, layout }: PlacedCard): Box => ({
  left: x,
  top: y,
  width: CARD_WIDTH,
  height: layout.height,
})

/** What was changed on a module, in words. */
const linesOf = ({ values }: Differences, id: string): string[] =>
  values
    .filter(({ target }) => splitTarget(target)?.[0] === id)
    .map(({ target, before, after }) => `${splitTarget(target)![1]} ${before} → ${after}`)

interface MarkProps {
  readonly kind: 'added' | 'changed' | 'removed'
  readonly id: string
  readonly box: Box
  readonly scale: number
  readonly name?: string
  readonly lines?: readonly string[]
}

const SIGNS = { added: 'new', changed: 'other', removed: 'gone' } as const

const Mark = ({ kind, id, box, scale, name, lines = [] }: MarkProps) => (
  <div
    className="version-mark"
    data-version={kind}
    data-of={id}
    role="img"
    aria-label={[SIGNS[kind], name ?? id, ...lines].join(', ')}
    style={{ ...box, fontSize: 11 * scale }}
  >
    <span className="version-sign">{SIGNS[kind]}</span>
    {name !== undefined && <span className="version-name">{name}</span>}
    {lines.length > 0 && (
      <span className="version-lines mono">
        {lines.slice(0, MOST_LINES).map((line) => (
          <span key={line}>{line}</span>
        ))}
        {lines.length > MOST_LINES && <span>and {lines.length - MOST_LINES} more</span>}
      </span>
    )}
  </div>
)

const useDifferences = (before: Patch): Differences => {
  const patch = useDocument((state) => state.patch)
  return useMemo(() => differences(before, patch), [before, patch])
}

/** Modules that are gone, where they stood on this level. */
const goneFrom = (before: Patch, group: string | undefined, found: Differences): PatchModule[] => {
  const level = levelPatch(before, group)
  if (group !== undefined && level === before) return []
  const gone = new Set(found.modulesRemoved)
  return level.modules.filter(({ id }) => gone.has(id))
}

/** Among the cards, in their places. */
export const VersionMarks = ({ compared: { patch: before } }: { readonly compared: Compared }) => {
  const found = useDifferences(before),
    group = useWorkspace((state) => state.group),
    seen = useSceneState((state) => state.seen),
    scale = useSceneState((state) => (state.distance === 'near' ? 1 : state.scale))
  const added = new Set(found.modulesAdded),
    changed = new Set(found.modulesChanged),
    old = levelPatch(before, group)
  return (
    <>
      {seen.map(({ card }) => {
        const lines = linesOf(found, card.id)
        if (added.has(card.id))
          return <Mark key={card.id} kind="added" id={card.id} box={boxOf(card)} scale={scale} />
        return changed.has(card.id) || lines.length > 0 ? (
          <Mark key={card.id} kind="changed" id={card.id} box={boxOf(card)} scale={scale} lines={lines} />
        ) : null
      })}
      {goneFrom(before, group, found).map((module) => {
        const { height } = cardLayout(module, usedRows(old, module), false)
        const box = { left: module.x ?? 0, top: module.y ?? 0, width: CARD_WIDTH, height }
        return (
          <Mark
            key={module.id}
            kind="removed"
            id={module.id}
            box={box}
            scale={scale}
            name={moduleLabel(module)}
          />
        )
      })}
    </>
  )
}

/** Cables in words, as they are called in the patch that has them. */
const cableWords = (patch: Patch, ends: readonly string[]): string =>
  ends
    .map((cable) =>
      cable
        .split(' > ')
        .map((end) => `${labelOf(patch, splitTarget(end)?.[0] ?? '')} ${splitTarget(end)?.[1] ?? ''}`)
        .join(' → '),
    )
    .join(', ')

/** What is shown, in words, over the chart. */
export const VersionPanel = ({ compared }: { readonly compared: Compared }) => {
  const app = useApp(),
    { workspace, document } = app
  const patch = useDocument((state) => state.patch),
    found = useDifferences(compared.patch),
    scene = useScene()
  const close = (): void => {
    workspace.getState().compare(undefined)
    app.chart.focus()
  }
  useEffect(() => {
    const pressed = (event: KeyboardEvent): void => {
      if (event.key !== 'Escape' || event.defaultPrevented) return
      event.preventDefault()
      workspace.getState().compare(undefined)
    }
    window.addEventListener('keydown', pressed)
    return () => {
      window.removeEventListener('keydown', pressed)
    }
  }, [workspace, scene])
  return (
    <div className="version-panel" role="status" data-compared="">
      <p>
        Since <span className="font-semibold">{compared.name}</span>: {differenceWords(found)}.
      </p>
      {found.cablesAdded.length > 0 && <p>New: {cableWords(patch, found.cablesAdded)}.</p>}
      {found.cablesRemoved.length > 0 && <p>Gone: {cableWords(compared.patch, found.cablesRemoved)}.</p>}
      <span className="mt-1 flex gap-2">
        <Button
          look="small"
          onClick={() => {
            restoreVersion(document, compared)
            close()
          }}
        >
          Restore
        </Button>
        <IconButton isSmall label="Show no version" keys="Esc" onClick={close}>
          <X size={13} />
        </IconButton>
      </span>
    </div>
  )
}
