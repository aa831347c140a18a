import { describe, expect, it } from 'vitest'
import { chamfered, route, type Wire } from './routing.ts'

const wire = (
  id: string,
  source: string,
  target: string,
  a: [number, number],
  b: [number, number],
): Wire => ({ id, source, target, from: { x: a[0], y: a[1] }, to: { x: b[0], y: b[1] } })
const points = (path: string): [number, number][] =>
  [...path.matchAll(/[ML]([\d.-]+) ([\d.-]+)/g)].map((match) => [Number(match[1]), Number(match[2])])

/** Level and upright stretches of a path. */
interface Stretch {
  readonly upright: boolean
  readonly at: number
  readonly from: number
  readonly to: number
}
const stretches = (path: string): Stretch[] => {
  const list = points(path)
  return list.slice(1).flatMap(([x, y], i): Stretch[] => {
    const [px, py] = list[i]!
    if (px === x && Math.abs(py - y) > 1)
      return [{ upright: true, at: x, from: Math.min(py, y), to: Math.max(py, y) }]
    if (py === y && Math.abs(px - x) > 1)
      return [{ upright: false, at: y, from: Math.min(px, x), to: Math.max(px, x) }]
    return []
  })
}

describe('chart lines', () => {
  it('leave level, turn at 45°, arrive level', () => {
    const path = route([wire('a', 's', 't', [0, 0], [200, 100])]).get('a')!.path
    const list = points(path)
    expect(list[0]).toEqual([0, 0])
    expect(list.at(-1)).toEqual([200, 100])
    expect(list[1]![1]).toBe(0)
    expect(list.at(-2)![1]).toBe(100)
    for (let i = 1; i < list.length; i += 1) {
      const dx = Math.abs(list[i]![0] - list[i - 1]![0]),
        dy = Math.abs(list[i]![1] - list[i - 1]![1])
      expect(dx === 0 || dy === 0 || Math.abs(dx - dy) < 1e-9).toBe(true)
    }
  })
  it('keep two sources apart, also just before the input they meet at', () => {
    const wires = Array.from({ length: 6 }, (_, n) => wire(`w${n}`, `s${n}`, 't', [0, n * 30], [220, 90]))
    const routes = [...route(wires).values()].map(({ path }) => stretches(path))
    for (let a = 0; a < routes.length; a += 1)
      for (let b = a + 1; b < routes.length; b += 1) {
        for (const p of routes[a]!)
          for (const q of routes[b]!) {
            const together =
              p.upright === q.upright &&
              Math.abs(p.at - q.at) < 2 &&
              Math.min(p.to, q.to) - Math.max(p.from, q.from) > 2
            expect(together, `${a} and ${b}`).toBe(false)
          }
      }
  })
  it('share a trunk where they come from one output, with a dot where they part', () => {
    const routes = route([wire('a', 's', 't1', [0, 0], [200, 60]), wire('b', 's', 't2', [0, 0], [200, 160])])
    expect(routes.get('a')!.branch).toEqual(routes.get('b')!.branch)
    expect(routes.get('a')!.branch).toBeDefined()
    const x = routes.get('a')!.branch!.x
    for (const id of ['a', 'b'])
      expect(stretches(routes.get(id)!.path).some((run) => run.upright && run.at === x)).toBe(true)
  })
  it('go round cards when they run back', () => {
    const boxes = [{ left: 0, top: 0, right: 192, bottom: 150 }]
    const path = route([wire('a', 's', 't', [192, 100], [0, 40])], boxes).get('a')!.path
    for (const run of stretches(path))
      if (!run.upright) expect(run.at > 150 || run.at < 0 || run.to <= 0 || run.from >= 192).toBe(true)
  })
  it('cuts no corner longer than its legs', () => {
    expect(
      points(
        chamfered([
          { x: 0, y: 0 },
          { x: 4, y: 0 },
          { x: 4, y: 100 },
        ]),
      )[1],
    ).toEqual([2, 0])
  })
})
