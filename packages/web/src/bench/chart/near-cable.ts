/** Which cable is meant at a place of the chart. */
import type { PlacedCable } from './places.ts'
import { distanceTo, type Point, type Route } from './routing.ts'

/** The one whose line is nearest, within a distance; `but`: none that ends at that card. */
export const nearestCable = (
  cables: ReadonlyMap<string, PlacedCable>,
  routes: ReadonlyMap<string, Route>,
  place: Point,
  { within, but }: { readonly within: number; readonly but: string },
): string | undefined => {
  let found: string | undefined,
    least = within
  for (const [id, route] of routes) {
    const cable = cables.get(id)
    if (!cable || [cable.source, cable.target].some((end) => end.startsWith(`${but}.`))) continue
    const away = distanceTo(route, place)
    if (away > least) continue
    least = away
    found = id
  }
  return found
}
