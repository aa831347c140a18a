import { readFileSync } from 'node:fs'
import { expect, it } from 'vitest'
import { CATALOGUE } from '../catalogue.ts'
import { withCableIds } from '../patch/edits.ts'
import type { Patch } from '../patch/types.ts'
import { parsePatch } from '../patch/validate.ts'
import { testKernels } from '../testing/kernels.ts'
import { patchOf } from '../testing/bench.ts'
import { Engine } from './engine.ts'
import { Layout } from './layout.ts'
import { Planner } from './planner.ts'
import { Runtime } from './runtime.ts'

const load = (name: string): Patch => {
  const result = parsePatch(
    readFileSync(new URL(`../../../../demo/patches/${name}.ypatch.json`, import.meta.url), 'utf8'),
  )
  if (!result.ok) throw new Error(`${name}: ${result.faults[0]!.message}`)
  return withCableIds(result.value)
}

it('every output may be watched while large patches follow each other: lists wait for the plan they belong to', () => {
  const runtime = new Runtime(testKernels(), 48000),
    layout = new Layout(runtime.facts, 48000),
    planner = new Planner(layout, 48000)
  const left = new Float32Array(128),
    right = new Float32Array(128)
  const blocks = (count: number): number => {
    let most = 0
    for (let n = 0; n < count; n += 1) {
      runtime.process(left, right, 0, 128)
      for (const x of left) most = Math.max(most, Math.abs(x))
    }
    return most
  }
  let before = new Set<string>(),
    keys: string[] = []
  const watch = (): void => {
    const words: (readonly [number, number])[] = [],
      now = new Set(keys)
    for (const key of before)
      if (!now.has(key)) {
        const word = layout.setWatched(key, false)
        if (word) words.push(word)
      }
    for (const key of now) {
      const word = layout.setWatched(key, true)
      if (word) words.push(word)
    }
    before = now
    let memoryBytes = 0
    const watches = keys.flatMap((key) => {
      const signal = layout.signal(key)
      if (!signal) return []
      const ring = layout.watchRing(key)
      memoryBytes = Math.max(memoryBytes, ring.memoryBytes)
      return [{ signal: signal.address, voices: signal.voices, sides: signal.sides, ring: ring.address }]
    })
    runtime.send({ list: { watches, words, memoryBytes } })
  }
  for (const name of [
    'reed-lamp',
    'keepers-steps',
    'mooring-line',
    'overtone-lantern',
    'mooring-line',
    'rain-on-glass',
  ]) {
    const patch = load(name),
      step = planner.next(patch)
    if (step.kind === 'plan') runtime.send(step.delta)
    watch()
    blocks(3)
    keys = patch.modules.flatMap((module) =>
      (CATALOGUE.get(module.type)?.description.outputs ?? []).map((port) => `${module.id}.${port.name}`),
    )
    watch()
    blocks(3)
    const settled = planner.settle()
    if (settled.kind === 'plan') runtime.send(settled.delta)
    watch()
    blocks(150)
    runtime.send({ event: { type: 'on', note: 60, velocity: 0.8, id: 1 } })
    expect(blocks(260), name).toBeGreaterThan(0.02)
    runtime.send({ event: { type: 'off', note: 60, velocity: 0, id: 1 } })
    blocks(100)
  }
  expect(runtime.resets).toBe(0)
})

it('a signal of two sides is written side by side where both are wanted', () => {
  const engine = new Engine(testKernels())
  const patch = patchOf(
    [
      ['v', 'value', { value: 0.5 }],
      ['p', 'pan', { pan: 1 }],
      ['out', 'output'],
    ],
    ['v.out > p.in', 'p.out > out.in'],
  )
  expect(engine.apply(patch).ok).toBe(true)
  const { layout, runtime } = engine,
    key = 'p.out'
  const word = layout.setWatched(key, true),
    left = layout.watchRing(key),
    right = layout.watchRing(key, 'right'),
    { address, voices, sides } = layout.signal(key)!
  expect(sides).toBe(2)
  const watches = [{ signal: address, voices, sides, ring: left.address, right: right.address }]
  runtime.send({
    list: { watches, words: word ? [word] : [], memoryBytes: Math.max(left.memoryBytes, right.memoryBytes) },
  })
  const block = [new Float32Array(128), new Float32Array(128)] as const
  for (let n = 0; n < 8; n += 1) runtime.process(block[0], block[1], 0, 128)
  const read = (ring: number): number => {
    const floats = new Float32Array(512)
    runtime.readInto(ring, floats, 0, 512)
    return floats[256]!
  }
  // All to the right.
  expect(read(left.address)).toBeCloseTo(0, 5)
  expect(read(right.address)).toBeGreaterThan(0.4)
})
