/** Loupes: cards in full over their places, which work there. */
import { CARD_WIDTH, rowTarget } from '@ypsilon/core'
import { Pin, PinOff } from 'lucide-react'
import { memo, useEffect, useMemo, useRef } from 'react'
import { useApp } from '../app/context.ts'
import { IconButton } from '../ui/button.tsx'
import { CardRows } from './card-rows.tsx'
import { type Loupe as LoupeState, loupeBox } from './chart/loupes.ts'
import { TracePainter } from './chart/painters.ts'
import { boxOfTrace } from './chart/pictures.ts'
import type { PlacedCard } from './chart/places.ts'
import { labelOfCard } from './chart/sounding-parts.ts'
import { PicturesIn } from './pictures-in.tsx'
import { useScene, useSceneState } from './scene-context.ts'

/** Live traces of a card's outputs. */
const Traces = memo(({ card: { id, layout } }: { readonly card: PlacedCard }) => {
  const items = useMemo(
    () =>
      layout.outputs.map(({ name, kind }, index) => {
        const key = rowTarget(id, name)
        return { key, box: boxOfTrace({ x: 0, y: 0, layout }, index), painter: new TracePainter(key, kind) }
      }),
    [id, layout],
  )
  return <PicturesIn width={CARD_WIDTH} height={layout.height} items={items} aria-hidden="true" />
})

interface LoupeProps {
  readonly loupe: LoupeState
  readonly card: PlacedCard
}

const Loupe = ({ loupe: { id, how, isPinned }, card }: LoupeProps) => {
  const { workspace } = useApp()
  const scene = useScene()
  const element = useRef<HTMLDivElement>(null)
  const box = loupeBox(card, scene.view)
  useEffect(() => {
    const found = element.current!
    scene.loupes.elements.set(id, found)
    if (how === 'key' && workspace.getState().renaming !== id)
      found.querySelector<HTMLElement>('.rows [tabindex], .rows button, .rows input')?.focus()
    return () => {
      scene.loupes.elements.delete(id)
    }
  }, [scene, workspace, id, how])
  return (
    <div
      ref={element}
      className="loupe nopan nowheel nokey"
      data-loupe={id}
      data-inert={scene.loupes.isInert(id)}
      role="group"
      aria-label={`${labelOfCard(card)}, in full`}
      style={{ left: box.left, top: box.top, width: box.right - box.left, height: box.bottom - box.top }}
      onScroll={(event) => {
        scene.loupes.scrolled.set(id, event.currentTarget.scrollTop)
      }}
    >
      <div className="card" data-selected="false" style={{ width: CARD_WIDTH, height: card.layout.height }}>
        <CardRows card={card} />
        <Traces card={card} />
      </div>
      <IconButton
        isSmall
        className="loupe-pin"
        label={isPinned ? 'Let the loupe go' : 'Keep the loupe open'}
        aria-pressed={isPinned}
        onClick={() => {
          scene.loupes.pin(id)
        }}
      >
        {isPinned ? <PinOff size={13} /> : <Pin size={13} />}
      </IconButton>
    </div>
  )
}

export const Loupes = () => {
  const scene = useScene()
  const loupes = useSceneState((state) => state.loupes)
  // Their places follow the cards', and the view once it rests.
  useSceneState((state) => state.rests)
  useSceneState((state) => state.seen)
  return loupes.map((loupe) => {
    const card = scene.cards.get(loupe.id)
    return card && <Loupe key={loupe.id} loupe={loupe} card={card} />
  })
}
