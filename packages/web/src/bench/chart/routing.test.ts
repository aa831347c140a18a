import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { route, Router } from './router.ts'
import { chamfered, type Wire } from './routing.ts'

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
    expect(routes.get('a')!.branch).toBeUndefined()
    const { x, y } = routes.get('b')!.branch!
    // The first of them turns there, the second goes on.
    for (const id of ['a', 'b'])
      expect(stretches(routes.get(id)!.path).some((run) => run.upright && run.at === x)).toBe(true)
    expect(stretches(routes.get('a')!.path).find((run) => run.upright)!.to).toBe(y)
    expect(stretches(routes.get('b')!.path).find((run) => run.upright)!.to).toBeGreaterThan(y)
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

describe('a router', () => {
  const box = (x: number, y: number) => ({ left: x, top: y, right: x + 192, bottom: y + 150 })
  /** Cards in a grid, and cables between any two of them. */
  const scene = fc.record({
    cards: fc.uniqueArray(fc.tuple(fc.nat(5), fc.nat(5)), { minLength: 2, maxLength: 12, selector: String }),
    wires: fc.array(fc.tuple(fc.nat(11), fc.nat(11), fc.nat(3)), { minLength: 1, maxLength: 24 }),
    moved: fc.nat(11),
    by: fc.tuple(fc.integer({ min: -200, max: 200 }), fc.integer({ min: -200, max: 200 })),
  })

  const wiresFor = (
    wires: readonly (readonly [number, number, number])[],
    at: readonly { x: number; y: number }[],
  ): Wire[] =>
    wires.map(([a, b, port], n) => {
      const from = at[a % at.length]!,
        to = at[b % at.length]!
      return {
        id: `w${n}`,
        source: `${a % at.length}.${port % 2}`,
        target: `${b % at.length}.${port}`,
        from: { x: from.x + 192, y: from.y + 40 + 24 * (port % 2) },
        to: { x: to.x, y: to.y + 40 + 27 * port },
        tag: port === 2 ? 40 : 0,
      }
    })

  it('of what is held gives the same ways at the same place, wherever it was meanwhile', () => {
    fc.assert(
      fc.property(
        scene,
        fc.array(fc.tuple(fc.integer({ min: -9, max: 9 }), fc.integer({ min: -9, max: 9 })), {
          minLength: 2,
          maxLength: 8,
        }),
        ({ cards, wires, moved }, steps) => {
          const places = cards.map(([x, y]) => ({ x: x * 260, y: y * 200 })),
            which = moved % places.length
          const boxesAt = (at: readonly { x: number; y: number }[]) => at.map(({ x, y }) => box(x, y))
          const router = new Router()
          router.update(wiresFor(wires, places), boxesAt(places))
          const sources = new Set(
            wiresFor(wires, places)
              .filter(({ source, target }) => [source, target].some((end) => end.startsWith(`${which}.`)))
              .map(({ source }) => source),
          )
          const held = (dx: number, dy: number): string => {
            const next = places.map(({ x, y }, n) =>
              n === which ? { x: x + 36 * dx, y: y + 36 * dy } : { x, y },
            )
            const own = wiresFor(wires, next).filter(({ source }) => sources.has(source))
            const routes = router.adjust(own, boxesAt(next))
            return own.map(({ id }) => routes.get(id)!.path).join(' ')
          }
          const seen = new Map<string, string>()
          for (const [dx, dy] of [...steps, ...[...steps].reverse()]) {
            const now = held(dx, dy),
              key = `${dx} ${dy}`
            expect(now, key).toBe(seen.get(key) ?? now)
            seen.set(key, now)
          }
        },
      ),
      {
        numRuns: 80,
        // Back where it stood before it was held.
        examples: [
          [
            {
              cards: [
                [0, 0],
                [0, 1],
              ],
              wires: [
                [3, 0, 0],
                [0, 0, 1],
              ],
              moved: 0,
              by: [0, 0],
            },
            [
              [0, 0],
              [0, -1],
            ],
          ],
        ],
      },
    )
  })

  it('with less care for many cables begins and ends every way at its ports, and lets none of two sources share one', () => {
    // Far apart, so that nothing but the number of cables is another.
    const pairs = Array.from({ length: 1600 }, (_, n) => n)
    const wires = pairs.map((n) =>
      wire(
        `w${n}`,
        `s${n}`,
        `t${n}`,
        [(n % 40) * 600, Math.floor(n / 40) * 300],
        [(n % 40) * 600 + 260, Math.floor(n / 40) * 300 + 90],
      ),
    )
    const few = route(wires.slice(0, 30)),
      many = route(wires)
    for (const { id } of wires.slice(0, 30)) expect(many.get(id)!.path, id).toBe(few.get(id)!.path)
    for (const { id, from, to } of wires) {
      const list = points(many.get(id)!.path)
      expect(list[0]).toEqual([from.x, from.y])
      expect(list.at(-1)).toEqual([to.x, to.y])
    }
  })

  /** Does a way lie behind a card, or just beside it? */
  const liesOn = (path: string, { left, top, right, bottom }: ReturnType<typeof box>): boolean =>
    stretches(path).some(({ upright, at, from, to }) => {
      const [x1, y1, x2, y2] = upright ? [at, from, at, to] : [from, at, to, at]
      return x1 < right + 12 && x2 > left - 12 && y1 < bottom + 12 && y2 > top - 12
    })

  it('lets every cable keep its way but those of what was moved or comes to stand on them, and comes back to none that lie on one another', () => {
    fc.assert(
      fc.property(scene, ({ cards, wires, moved, by }) => {
        const places = cards.map(([x, y]) => ({ x: x * 260, y: y * 200 }))
        const wiresAt = (at: readonly { x: number; y: number }[]): Wire[] => wiresFor(wires, at)
        const boxesAt = (at: readonly { x: number; y: number }[]) => at.map(({ x, y }) => box(x, y))
        const router = new Router()
        const before = router.update(wiresAt(places), boxesAt(places))
        const which = moved % places.length
        const next = places.map((place, n) =>
          n === which ? { x: place.x + by[0], y: place.y + by[1] } : place,
        )
        const after = router.update(wiresAt(next), boxesAt(next))
        const isOf = (end: string): boolean => end.startsWith(`${which}.`)
        const all = wiresAt(places),
          moves = new Set(all.filter(({ source, target }) => isOf(source) || isOf(target)))
        // Cables that end at one input fan out by where they come from, and those of one source share a trunk.
        const ends = new Set([...moves].map(({ target }) => target))
        for (const wire of all) {
          const { path } = before.get(wire.id)!
          if (moves.has(wire) || ends.has(wire.target) || liesOn(path, boxesAt(next)[which]!)) continue
          expect(after.get(wire.id)!.path, wire.id).toBe(path)
        }
        for (const { id, from, to } of wiresAt(next)) {
          const list = points(after.get(id)!.path)
          expect(list[0]).toEqual([from.x, from.y])
          expect(list.at(-1)).toEqual([to.x, to.y])
        }
        // Nothing is left of cables that are gone: what comes then is routed as if they had never been.
        router.update([], [])
        expect([...router.update(wiresAt(next), boxesAt(next))]).toEqual([
          ...route(wiresAt(next), boxesAt(next)),
        ])
      }),
      { numRuns: 150 },
    )
  })

  it('gives back the ways there were when a move is undone, but where others lie there by now', () => {
    let same = 0
    fc.assert(
      fc.property(scene, ({ cards, wires, moved, by }) => {
        const places = cards.map(([x, y]) => ({ x: x * 260, y: y * 200 })),
          which = moved % places.length
        const next = places.map((place, n) =>
          n === which ? { x: place.x + by[0], y: place.y + by[1] } : place,
        )
        const boxesAt = (at: readonly { x: number; y: number }[]) => at.map(({ x, y }) => box(x, y))
        const router = new Router()
        const laid = (at: readonly { x: number; y: number }[]): Map<string, string> =>
          new Map([...router.update(wiresFor(wires, at), boxesAt(at))].map(([id, { path }]) => [id, path]))
        const first = laid(places),
          other = laid(next),
          again = laid(places)
        const isOf = (end: string): boolean => end.startsWith(`${which}.`)
        const all = wiresFor(wires, places)
        const rest = all.filter(({ source, target }) => !isOf(source) && !isOf(target))
        if (!rest.every(({ id }) => other.get(id) === first.get(id))) return
        same += 1
        expect([...again]).toEqual([...first])
      }),
      { numRuns: 150 },
    )
    expect(same).toBeGreaterThan(75)
  })
})
