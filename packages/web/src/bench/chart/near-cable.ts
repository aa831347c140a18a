/** Which cable is meant at a place of the chart. */
import type { PlacedCable } from './places.ts'
import { distanceTo, type Point, type Route } from './routing.ts'

export interface Lines {
  readonly cables: ReadonlyMap<string, PlacedCable>
  readonly routes: ReadonlyMap<string, Route>
}

/** The one whose line is nearest, within a distance; `but`: none that ends at that card. */
export const nearestCable = (
  { cables, routes }: Lines,
  place: Point,
  within: number,
  but = '',
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
