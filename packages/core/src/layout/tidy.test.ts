import Elk from 'elkjs/lib/elk.bundled.js'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Patch } from '../patch/types.ts'
import { generatedPatch } from '../testing/generated.ts'
import { demoPatch, DEMOS, TEMPLATES } from '../testing/patches.ts'
import { columnsOf } from './columns.ts'
import { cardRect, type Place, type Rect } from './free.ts'
import { GRID } from './grid.ts'
import { isotonic } from './heights.ts'
import { type ElkAnswer, type Kernel, layersIn, questionOf } from './layers.ts'
import { depthLayers, placed, ROOM } from './place.ts'
import { moversOf, sketchOf } from './sketch.ts'
import { tidied as tidiedAll } from './tidied.ts'

const elk = new Elk()
const kernel: Kernel = async (graph) =>
  (await elk.layout(graph as unknown as Parameters<typeof elk.layout>[0])) as ElkAnswer

/** Places of modules alone. */
const tidied = async (...asked: Parameters<typeof tidiedAll>): Promise<ReadonlyMap<string, Place>> =>
  (await tidiedAll(...asked)).modules

const at = (patch: Patch, places: ReadonlyMap<string, Place>): Patch => ({
  ...patch,
  modules: patch.modules.map((module) => ({ ...module, ...places.get(module.id) })),
})
const rects = (patch: Patch): (Rect & { id: string })[] =>
  patch.modules.map((module) => ({ id: module.id, ...cardRect(patch, module) }))

/** Pairs of cards of which one lies on the other. */
const overlaps = (patch: Patch): string[] => {
  const all = rects(patch)
  return all.flatMap((a, n) =>
    all
      .slice(n + 1)
      .filter(
        (b) => a.x < b.x + b.width && a.x + a.width > b.x && a.y < b.y + b.height && a.y + a.height > b.y,
      )
      .map((b) => `${a.id} on ${b.id}`),
  )
}
const GENERATED = [
  [2, 1],
  [12, 2],
  [40, 3],
  [40, 4],
  [60, 5],
] as const
const PATCHES: readonly Patch[] = [
  ...DEMOS.map((name) => demoPatch(name)),
  ...GENERATED.map(([count, seed]) => generatedPatch(count, seed)),
]
/** Each of them laid out, once for all tests. */
const found = new Map<Patch, ReadonlyMap<string, Place>>()
const tidyOf = async (patch: Patch): Promise<ReadonlyMap<string, Place>> => {
  const places = found.get(patch) ?? (await tidied(patch, ROOM, kernel))
  found.set(patch, places)
  return places
}

describe('Tidy', () => {
  it('puts no card on another, and all of them on the grid', async () => {
    for (const patch of PATCHES) {
      const tidy = at(patch, await tidyOf(patch))
      expect(overlaps(tidy), patch.name).toEqual([])
      for (const { x = NaN, y = NaN } of tidy.modules)
        expect([x % GRID, y % GRID].map(Math.abs)).toEqual([0, 0])
    }
  })

  it('changes nothing a second time, wherever cards stand', async () => {
    for (const patch of PATCHES.slice(0, -2)) {
      const once = await tidyOf(patch)
      // From somewhere else: what stands where does not count.
      const moved = at(patch, new Map([...once].map(([id, { x, y }]) => [id, { x: 24 - y, y: x }])))
      expect(await tidied(moved, ROOM, kernel), patch.name).toEqual(once)
    }
  })

  it('is how all templates are stored', async () => {
    for (const name of TEMPLATES) {
      const patch = demoPatch(name, 'templates')
      expect(at(patch, await tidied(patch, ROOM, kernel)).modules, name).toEqual(patch.modules)
    }
  })

  it('is how all demos are stored', async () => {
    for (const patch of PATCHES.slice(0, DEMOS.length))
      expect(at(patch, await tidyOf(patch)).modules, patch.name).toEqual(patch.modules)
  })

  it('lets sound go to the right but from the end of a line to the next, and what moves stand right before it', async () => {
    for (const patch of PATCHES) {
      const sketch = sketchOf(patch),
        layers = layersIn(sketch, await kernel(questionOf(sketch)))
      const { column, lines } = columnsOf(sketch, layers, ROOM, 6, { work: 1e5 })
      const lineOf = (node: number): number =>
        lines.findIndex(({ begin, end }) => column[node]! >= begin && column[node]! < end)
      const back = sketch.links.filter(({ from, to }) => column[from]! >= column[to]!)
      // Only links that close rings turn back.
      expect(back.length, patch.name).toBeLessThanOrEqual(
        sketch.links.filter(({ from, to }) => layers.layer[from]! >= layers.layer[to]!).length,
      )
      const movers = moversOf(sketch)
      const moves = sketch.links.filter(({ from, to }) => movers[from] && column[from]! < column[to]!)
      if (moves.length === 0 || patch.name.startsWith('Generated')) continue
      const nearest = new Map<number, number>()
      for (const { from, to } of moves)
        if (lineOf(from) === lineOf(to))
          nearest.set(from, Math.min(nearest.get(from) ?? Infinity, column[to]! - column[from]!))
      const beside = [...nearest.values()].filter((steps) => steps === 1).length
      expect(beside / nearest.size, patch.name).toBeGreaterThan(0.6)
    }
  })

  it('keeps parallel voices parallel: cards of the same kind in rows, in one order', async () => {
    const { modules } = at(demoPatch('rain-on-glass'), await tidied(demoPatch('rain-on-glass'), ROOM, kernel))
    const y = (id: string): number => modules.find((module) => module.id === id)!.y!
    const voices = ['quantize', 'wavetable', 'pan'].map((type) =>
      modules.filter((module) => module.type === type).map(({ id }) => id),
    )
    for (const row of voices) expect(row).toHaveLength(3)
    const orders = voices.map((row) =>
      [...row]
        .sort((a, b) => y(a) - y(b))
        .map((id) => row.indexOf(id))
        .join(''),
    )
    expect(new Set(orders).size).toBe(1)
  })

  it('of a selection leaves the others where they are, covers none, and is the same a second time', async () => {
    for (const [name, ids] of [
      ['rain-on-glass', ['mix1', 'mix2', 'filter', 'out']],
      ['ferry-engine', ['puff', 'shaft', 'engine', 'cloud']],
      ['engine-room', ['clock', 'steps', 'decay']],
    ] as const) {
      const patch = demoPatch(name),
        chosen = new Set(ids.filter((id) => patch.modules.some((module) => module.id === id)))
      const places = await tidied(patch, ROOM, kernel, chosen)
      expect([...places.keys()].sort()).toEqual([...chosen].sort())
      const next = at(patch, places)
      expect(overlaps(next), name).toEqual([])
      expect(await tidied(next, ROOM, kernel, chosen)).toEqual(places)
    }
  })

  it('has an answer for nothing, for one, for rings and for what is not connected', async () => {
    const none = { ...demoPatch('reed-lamp'), modules: [], cables: [] }
    expect((await tidied(none, ROOM, kernel)).size).toBe(0)
    const one = { ...none, modules: [{ id: 'a', type: 'filter', x: 700, y: -30 }] }
    expect(await tidied(one, ROOM, kernel)).toEqual(new Map([['a', { x: 0, y: 0 }]]))
    const loose = {
      ...none,
      modules: Array.from({ length: 30 }, (_, n) => ({ id: `m${n}`, type: 'filter' })),
    }
    const tidy = at(loose, await tidied(loose, ROOM, kernel))
    expect(overlaps(tidy)).toEqual([])
    // They fill the window rather than one column.
    const all = rects(tidy),
      width = Math.max(...all.map(({ x }) => x)),
      height = Math.max(...all.map(({ y }) => y))
    expect(width).toBeGreaterThan(height / 4)
    const ring = {
      ...none,
      modules: ['a', 'b', 'c'].map((id) => ({ id, type: 'filter' })),
      cables: ['ab', 'bc', 'ca', 'aa'].map((way) => ({ from: `${way[0]}.low`, to: `${way[1]}.in` })),
    }
    expect(overlaps(at(ring, await tidied(ring, ROOM, kernel)))).toEqual([])
  })
})

describe('what has no place', () => {
  it('is laid out without one card on another where there are hundreds, too: what is then left out is only care', () => {
    for (const [count, seed] of [
      [90, 6],
      [450, 7],
    ] as const)
      expect(overlaps(placed(generatedPatch(count, seed))), `${count}`).toEqual([])
  })

  it('is laid out without one card on another, the same every time', () => {
    for (const patch of PATCHES) {
      const bare = { ...patch, modules: patch.modules.map(({ x: _x, y: _y, ...module }) => module) }
      const there = placed(bare)
      expect(overlaps(there), patch.name).toEqual([])
      expect(placed(bare)).toEqual(there)
    }
  })

  it('comes to stand beside what feeds it, and moves nothing that has a place', () => {
    const patch = demoPatch('rain-on-glass')
    const bare = {
      ...patch,
      modules: patch.modules.map((module, n) => {
        const { x: _x, y: _y, ...rest } = module
        return n % 4 === 1 ? rest : module
      }),
    }
    const there = placed(bare)
    expect(overlaps(there)).toEqual([])
    patch.modules.forEach((module, n) => {
      if (n % 4 !== 1) expect(there.modules[n]).toBe(module)
    })
  })
})

describe('parts of it', () => {
  it('isotonic regression is the nearest ascending sequence: no step of it may be bettered', () => {
    const values = fc.array(fc.tuple(fc.integer({ min: -50, max: 50 }), fc.integer({ min: 1, max: 5 })), {
      minLength: 1,
      maxLength: 12,
    })
    fc.assert(
      fc.property(values, (pairs) => {
        const wanted = pairs.map(([value]) => value),
          weights = pairs.map(([, weight]) => weight)
        const found = isotonic(wanted, weights)
        const off = (sequence: readonly number[]): number =>
          sequence.reduce((sum, value, n) => sum + weights[n]! * (value - wanted[n]!) ** 2, 0)
        for (let n = 1; n < found.length; n += 1)
          expect(found[n]!).toBeGreaterThanOrEqual(found[n - 1]! - 1e-9)
        // Any stretch of it moved up or down a little, as far as it stays ascending, is farther off.
        for (let a = 0; a < found.length; a += 1)
          for (let b = a + 1; b <= found.length; b += 1)
            for (const by of [-0.01, 0.01]) {
              const other = found.map((value, n) => (n >= a && n < b ? value + by : value))
              const isAscending = other.every((value, n) => n === 0 || value >= other[n - 1]! - 1e-12)
              if (isAscending) expect(off(other)).toBeGreaterThanOrEqual(off(found) - 1e-9)
            }
      }),
    )
  })

  it('layers by depth point every link that closes no ring to the right', () => {
    for (const patch of PATCHES) {
      const sketch = sketchOf(patch),
        { layer } = depthLayers(sketch)
      const back = sketch.links.filter(({ from, to }) => layer[from]! >= layer[to]!)
      if (patch.name.startsWith('Generated')) expect(back).toEqual([])
      expect(back.length).toBeLessThan(Math.max(1, sketch.links.length / 4))
    }
  })
})
