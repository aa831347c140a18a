/** Cards that are in view, each one element at every distance. */
import { CARD_WIDTH, type PatchModule } from '@ypsilon/core'
import { type KeyboardEvent, memo, type MouseEvent, type PointerEvent, useCallback } from 'react'
import { useApp, useWorkspace } from '../app/context.ts'
import { inFocus, levelNow } from '../app/level.ts'
import { CardRows } from './card-rows.tsx'
import type { Scene } from './chart/scene.ts'
import { isOnWay } from './chart/scene-state.ts'
import type { SeenCard } from './chart/seen.ts'
import { labelOfCard, partsWord } from './chart/sounding-parts.ts'
import { usePointing, useScene, useSceneState } from './scene-context.ts'
import { Sounding } from './sounding.tsx'

const selections = new WeakMap<readonly string[], ReadonlySet<string>>()
/** The selection as a set, made once for all cards. */
const setOf = (selection: readonly string[]): ReadonlySet<string> => {
  let set = selections.get(selection)
  if (!set) {
    set = new Set(selection)
    selections.set(selection, set)
  }
  return set
}

/** For the `ref` of a card: the scene moves its element while it is held. */
const useElementOf = (scene: Scene, id: string) =>
  useCallback(
    (found: HTMLDivElement | null) => {
      if (!found) return undefined
      scene.elements.set(id, found)
      return () => {
        if (scene.elements.get(id) === found) scene.elements.delete(id)
      }
    },
    [scene, id],
  )

const isField = ({ target }: MouseEvent): boolean =>
  (target as Element).closest('button, input, [role="slider"]') !== null

/** Whether a way is lit that the module has no part in. */
const useBeside = (module: PatchModule): boolean => {
  const { document, workspace } = useApp()
  return useWorkspace(({ silence, focus }) => {
    const near = focus === undefined ? undefined : inFocus(levelNow({ document, workspace }), focus)
    if (near) return !near.has(module.id)
    return (
      typeof silence === 'object' &&
      silence.finding !== undefined &&
      module.type !== 'portout' &&
      !isOnWay(silence.path, module)
    )
  })
}

const Shell = memo(({ seen: { card, hasRows, distance, scale } }: { readonly seen: SeenCard }) => {
  const { workspace, chart } = useApp()
  const scene = useScene(),
    pointing = usePointing()
  const { id, x, y, layout, module, isOpen } = card
  const isSelected = useWorkspace((state) => setOf(state.selection).has(id)),
    isLouped = useSceneState((state) => state.loupes.some((loupe) => loupe.id === id))
  const isBeside = useBeside(module)
  const element = useElementOf(scene, id)
  return (
    <div
      ref={element}
      className={`nopan nokey ${hasRows ? 'card' : 'sounding'}`}
      data-module={id}
      data-selected={isSelected}
      data-bypassed={module.bypass === true}
      data-open={isOpen}
      data-beside={isBeside}
      role="group"
      tabIndex={0}
      aria-label={labelOfCard(card)}
      style={{
        // No transform: with one each, every card would be put together apart in every frame.
        left: x,
        top: y,
        width: CARD_WIDTH,
        height: layout.height,
      }}
      onPointerDown={(event: PointerEvent) => {
        pointing.pressCard(id, event.nativeEvent, hasRows)
      }}
      onFocus={(event) => {
        if (event.target !== event.currentTarget || !event.currentTarget.matches(':focus-visible')) return
        workspace.getState().select([id])
        chart.reveal(id)
      }}
      onDoubleClick={(event) => {
        if (module.inside && !isField(event)) workspace.getState().openGroup(id)
      }}
      onKeyDown={(event: KeyboardEvent) => {
        if (event.key !== 'Enter' || event.target !== event.currentTarget) return
        event.preventDefault()
        if (hasRows) workspace.getState().toggleRows(id)
        else scene.loupes.open(id, 'key')
      }}
    >
      {hasRows ? (
        <CardRows card={card} />
      ) : (
        <Sounding
          card={card}
          distance={distance}
          parts={partsWord(card, distance, scale)}
          scale={scale}
          isLouped={isLouped}
        />
      )}
    </div>
  )
})

export const Cards = () =>
  useSceneState((state) => state.seen).map((seen) => <Shell key={seen.card.id} seen={seen} />)
