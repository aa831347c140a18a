/** Marks of modules and families: each its own, one line within its field. */
import { describe, expect, it } from 'vitest'
import { CATALOGUE, FAMILIES } from '../catalogue.ts'

const FIELD = 16
/** How many numbers each step of a path takes. */
const TAKES: Readonly<Record<string, number>> = { m: 2, l: 2, h: 1, v: 1, c: 6, s: 4, a: 7, z: 0 }

type Point = readonly [x: number, y: number]

/** The numbers of a step, as many at a time as it takes. Throws where it is no step. */
const stepsOf = (letter: string, rest: string): number[][] => {
  const takes = TAKES[letter.toLowerCase()],
    numbers = (rest.match(/-?(?:\d+\.?\d*|\.\d+)/g) ?? []).map(Number)
  const isWhole = takes === 0 ? numbers.length === 0 : numbers.length > 0 && numbers.length % takes! === 0
  if (takes === undefined || !isWhole) throw new Error(`${letter}${rest} is no step of a path`)
  return takes === 0
    ? [[]]
    : Array.from({ length: numbers.length / takes }, (_, at) => numbers.slice(at * takes, (at + 1) * takes))
}

/** Where a step ends. */
const after = ([x, y]: Point, letter: string, step: readonly number[]): Point => {
  const [fromX, fromY] = letter === letter.toLowerCase() ? [x, y] : [0, 0]
  if (letter.toLowerCase() === 'h') return [fromX + step[0]!, y]
  if (letter.toLowerCase() === 'v') return [x, fromY + step[0]!]
  return [fromX + step.at(-2)!, fromY + step.at(-1)!]
}

/** Where a path goes, point by point. */
const pointsOf = (path: string): Point[] => {
  const points: Point[] = []
  let here: Point = [0, 0],
    begin: Point = here
  for (const [, letter, rest] of path.matchAll(/([a-zA-Z])([^a-zA-Z]*)/g))
    stepsOf(letter!, rest!).forEach((step, at) => {
      here = step.length === 0 ? begin : after(here, letter!, step)
      if (letter!.toLowerCase() === 'm' && at === 0) begin = here
      points.push(here)
    })
  return points
}

describe('marks', () => {
  const all = [
    ...[...CATALOGUE.values()].map(({ description: { type, mark } }) => [type, mark] as const),
    ...FAMILIES.map(({ name, mark }) => [`family ${name}`, mark] as const),
  ]
  it.each(all)('of %s is a line within its field', (_name, mark) => {
    const points = pointsOf(mark)
    expect(points.length).toBeGreaterThan(1)
    for (const [x, y] of points) {
      expect(Math.min(x, y)).toBeGreaterThanOrEqual(0)
      expect(Math.max(x, y)).toBeLessThanOrEqual(FIELD)
    }
  })

  it('no two modules have the same', () => {
    const marks = [...CATALOGUE.values()].map(({ description }) => description.mark)
    expect(new Set(marks).size).toBe(marks.length)
  })
})
