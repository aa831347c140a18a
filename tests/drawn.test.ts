/** Whole patches as they are drawn: nothing lies on anything, and how often lines cross and turn is counted. */
import { CARD_WIDTH, LANE, type Patch, withCableIds } from '../packages/core/src/index.ts'
import { placed } from '../packages/core/src/layout/place.ts'
import { generatedPatch } from '../packages/core/src/testing/generated.ts'
import { demoPatch, DEMOS } from '../packages/core/src/testing/patches.ts'
import { afterAll, describe, expect, it } from 'vitest'
import { countBox, countPlaces } from '../packages/web/src/bench/chart/count-places.ts'
import { type PlacedCable, placesOf } from '../packages/web/src/bench/chart/places.ts'
import { route } from '../packages/web/src/bench/chart/router.ts'
import { type Box, cornersOf, type Route } from '../packages/web/src/bench/chart/routing.ts'
import { TAG_HEIGHT } from '../packages/web/src/bench/chart/tags.ts'

interface Stretch {
  readonly upright: boolean
  readonly at: number
  readonly from: number
  readonly to: number
}

/** Level and upright stretches of a line. */
const stretchesOf = (line: Route): Stretch[] => {
  const way = cornersOf(line)
  return Array.from({ length: way.length / 2 - 1 }, (_, n) => n).flatMap((n): Stretch[] => {
    const [ax = 0, ay = 0, bx = 0, by = 0] = way.subarray(2 * n, 2 * n + 4)
    if (ax === bx) return [{ upright: true, at: ax, from: Math.min(ay, by), to: Math.max(ay, by) }]
    if (ay === by) return [{ upright: false, at: ay, from: Math.min(ax, bx), to: Math.max(ax, bx) }]
    return []
  })
}
const touch = (a: Box, b: Box): boolean =>
  a.left < b.right && a.right > b.left && a.top < b.bottom && a.bottom > b.top

const drawnOf = (patch: Patch) => {
  const { cards, cables } = placesOf(withCableIds(placed(patch)), new Set())
  const boxes = [...cards.values()].map(({ box }) => box),
    routes = route([...cables.values()], boxes)
  const lines = [...cables.values()].map((cable) => {
    const line = routes.get(cable.id)!
    return { cable, line, stretches: stretchesOf(line) }
  })
  return { boxes, lines }
}
type Drawn = ReturnType<typeof drawnOf>

const tagOf = ({ tag = 0 }: PlacedCable, line: Route): Box => ({
  left: line.tag.x - tag,
  right: line.tag.x,
  top: line.tag.y - TAG_HEIGHT,
  bottom: line.tag.y,
})

const isOnLine = (stretches: readonly Stretch[], box: Box): boolean =>
  stretches.some(({ upright, at, from, to }) =>
    upright
      ? at > box.left && at < box.right && from < box.bottom && to > box.top
      : at > box.top && at < box.bottom && from < box.right && to > box.left,
  )

/** Pixels of lines of different sources that lie on one another. */
const shared = ({ lines }: Drawn): number => {
  let length = 0
  lines.forEach((a, n) => {
    for (const b of lines.slice(0, n)) {
      if (a.cable.source === b.cable.source) continue
      for (const p of a.stretches)
        for (const q of b.stretches)
          if (p.upright === q.upright && Math.abs(p.at - q.at) < 2)
            length += Math.max(0, Math.min(p.to, q.to) - Math.max(p.from, q.from))
    }
  })
  return length
}

/** Pixels over which cables of one source run beside one another where one line would do. */
const doubled = ({ lines }: Drawn): number => {
  let length = 0
  lines.forEach((a, n) => {
    for (const b of lines.slice(0, n)) {
      if (a.cable.source !== b.cable.source || a.cable.target === b.cable.target) continue
      for (const p of a.stretches)
        for (const q of b.stretches) {
          const apart = Math.abs(p.at - q.at)
          if (p.upright === q.upright && apart > 0 && apart <= 2 * LANE)
            length += Math.max(0, Math.min(p.to, q.to) - Math.max(p.from, q.from) - 2 * LANE)
        }
    }
  })
  return length
}

/** Places where lines of different sources cross. */
const crossings = ({ lines }: Drawn): number => {
  const met = new Set<string>()
  for (const a of lines)
    for (const b of lines) {
      if (a.cable.source === b.cable.source) continue
      for (const p of a.stretches.filter(({ upright }) => upright))
        for (const q of b.stretches.filter(({ upright }) => !upright))
          if (p.at > q.from && p.at < q.to && q.at > p.from && q.at < p.to)
            met.add([[a.cable.source, b.cable.source].sort().join(), p.at, q.at].join(' '))
    }
  return met.size
}

/** Pixels that lines run behind cards. */
const behind = ({ lines, boxes }: Drawn): number =>
  lines.reduce(
    (sum, { stretches }) =>
      sum +
      stretches.reduce((own, { upright, at, from, to }) => {
        const on = boxes.filter((box) =>
          upright
            ? box.left < at && box.right > at && box.top < to && box.bottom > from
            : box.top < at && box.bottom > at && box.left < to - 1 && box.right > from + 1,
        )
        return (
          own +
          on.reduce(
            (length, box) =>
              length +
              (upright
                ? Math.min(to, box.bottom) - Math.max(from, box.top)
                : Math.min(to, box.right) - Math.max(from, box.left)),
            0,
          )
        )
      }, 0),
    0,
  )

const bends = ({ lines }: Drawn): number =>
  lines.reduce((sum, { stretches }) => sum + Math.max(0, stretches.length - 1), 0)

const GENERATED = [
  [40, 3],
  [40, 4],
  [40, 9],
  [60, 5],
] as const
const PATCHES: readonly Patch[] = [
  ...DEMOS.map((name) => demoPatch(name)),
  ...GENERATED.map(([count, seed]) => generatedPatch(count, seed)),
]
const counts: string[] = []
afterAll(() => {
  console.info(counts.join('\n'))
})

describe('a whole patch', () => {
  it.each(PATCHES.map((patch) => [patch.name, patch] as const))(
    '%s has nothing on anything',
    (name, patch) => {
      const drawn = drawnOf(patch),
        { lines, boxes } = drawn
      // Where nothing is free along its cable an amount waits until that is pointed at.
      const all = lines.filter(({ cable }) => (cable.tag ?? 0) > 0),
        tagged = all.filter(({ line }) => !line.isCrowded),
        tags = tagged.map(({ cable, line }) => tagOf(cable, line))
      const onCards = tags.filter((tag) => boxes.some((box) => touch(tag, box))),
        onTags = tags.filter((tag, n) => tags.some((other, m) => n !== m && touch(tag, other)))
      const sources = new Map(lines.map(({ cable }) => [cable.source, '×8'])),
        counted = countPlaces(
          lines.map(({ cable, line }) => ({ ...cable, route: line })),
          sources,
        )
      const countsOnSomething = [...counted].filter(([source, place]) => {
        const box = countBox(place, '×8')
        const others = [...counted].flatMap(([other, at]) => (other === source ? [] : [countBox(at, '×8')]))
        return (
          [...tags, ...others].some((other) => touch(other, box)) ||
          lines.some(({ stretches }) => isOnLine(stretches, box))
        )
      })
      const onLines = tags.filter((tag, n) =>
        lines.some(
          ({ cable, stretches }) => cable.source !== tagged[n]!.cable.source && isOnLine(stretches, tag),
        ),
      )
      counts.push(
        `${name}: ${boxes.length} cards, ${lines.length} cables, ${crossings(drawn)} crossings, ${bends(drawn)} bends, ` +
          `${all.length} amounts of which ${all.length - tags.length} wait, ${sources.size} counts of which ${sources.size - counted.size} wait, ${behind(drawn)} px behind cards, ${shared(drawn)} px shared, ${doubled(drawn)} px doubled`,
      )
      expect(onCards).toEqual([])
      expect(onTags).toEqual([])
      // What was wired at random may have one cable behind a card, or touching another, where there is no room.
      const isMade = name.startsWith('Generated')
      expect(behind(drawn)).toBeLessThanOrEqual(isMade ? (boxes.length > 40 ? 2 : 1) * CARD_WIDTH : 0)
      expect(shared(drawn)).toBeLessThanOrEqual(isMade ? 24 : 0)
      expect(onLines).toEqual([])
      expect(all.length - tags.length).toBeLessThanOrEqual(isMade ? 1 : 0)
      expect(countsOnSomething).toEqual([])
      expect(sources.size - counted.size).toBeLessThanOrEqual(2)
    },
  )
})
