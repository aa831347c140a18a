/** Cards on their way to new places. */
import type { PlacedCard } from './places.ts'
import type { Point } from './routing.ts'

const GLIDE_MS = 260

/** What goes along with cards is not seen for the first half of their way. */
export const COMING_BACK: Keyframe[] = [{ opacity: 0 }, { opacity: 0, offset: 0.5 }, {}]

/** Elements come from where they were; how that is timed, or nothing where nobody wants things to move. */
export const glide = (
  from: ReadonlyMap<string, Point>,
  marks: readonly string[],
  cards: ReadonlyMap<string, PlacedCard>,
  elements: ReadonlyMap<string, HTMLElement>,
): KeyframeAnimationOptions | undefined => {
  if (from.size + marks.length === 0 || matchMedia('(prefers-reduced-motion: reduce)').matches)
    return undefined
  const timing = { duration: GLIDE_MS, easing: 'ease-in-out' }
  for (const [id, { x, y }] of from) {
    const card = cards.get(id)
    if (!card) continue
    const start = { transform: `translate(${x - card.x}px, ${y - card.y}px)` }
    elements.get(id)?.animate([start, {}], timing)
  }
  for (const id of marks)
    document.querySelector(`[data-mark="${CSS.escape(id)}"]`)?.animate(COMING_BACK, timing)
  return timing
}
