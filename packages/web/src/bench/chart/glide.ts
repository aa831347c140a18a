/** Cards on their way to new places. */
import type { PlacedCard } from './places.ts'
import type { Point } from './routing.ts'

const GLIDE_MS = 260

/** Elements come from where they were; how that is timed, or nothing where nobody wants things to move. */
export const glide = (
  from: ReadonlyMap<string, Point>,
  cards: ReadonlyMap<string, PlacedCard>,
  elements: ReadonlyMap<string, HTMLElement>,
): KeyframeAnimationOptions | undefined => {
  if (from.size === 0 || matchMedia('(prefers-reduced-motion: reduce)').matches) return undefined
  const timing = { duration: GLIDE_MS, easing: 'ease-in-out' }
  for (const [id, { x, y }] of from) {
    const card = cards.get(id)
    if (!card) continue
    const start = { transform: `translate(${x - card.x}px, ${y - card.y}px)` }
    elements.get(id)?.animate([start, {}], timing)
  }
  return timing
}
