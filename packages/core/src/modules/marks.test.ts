/** Marks of modules and families: each its own, one line within its field. */
import { describe, expect, it } from 'vitest'
import { CATALOGUE, FAMILIES } from '../catalogue.ts'

const FIELD = 16
/** How many numbers each step of a path takes. */
const TAKES: Readonly<Record<string, number>> = { m: 2, l: 2, h: 1, v: 1, c: 6, s: 4, a: 7, z: 0 }

/** Where a path goes, point by point. Throws where it is no path. */
const pointsOf = (path: string): [x: number, y: number][] => {
  const points: [number, number][] = []
  let x = 0,
    y = 0,
    begin: [number, number] = [0, 0]
  for (const [, letter, rest] of path.matchAll(/([a-zA-Z])([^a-zA-Z]*)/g)) {
    const kind = letter!.toLowerCase(),
      takes = TAKES[kind],
      isOwn = letter === kind
    if (takes === undefined) throw new Error(`${letter} in ${path}`)
    const numbers = (rest!.match(/-?(?:\d+\.?\d*|\.\d+)/g) ?? []).map(Number)
    if (takes === 0 ? numbers.length > 0 : numbers.length === 0 || numbers.length % takes > 0)
      throw new Error(`${letter}${rest} in ${path}`)
    if (kind === 'z') [x, y] = begin
    for (let at = 0; at < numbers.length; at += takes) {
      const step = numbers.slice(at, at + takes)
      if (kind === 'h') x = step[0]! + (isOwn ? x : 0)
      else if (kind === 'v') y = step[0]! + (isOwn ? y : 0)
      else [x, y] = [step.at(-2)! + (isOwn ? x : 0), step.at(-1)! + (isOwn ? y : 0)]
      if (kind === 'm' && at === 0) begin = [x, y]
      points.push([x, y])
    }
  }
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
