/** The engine under a thousand random edits, and random graphs of all modules. Seeds are printed by fast-check. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compile } from '../compile/compile.ts'
import type { Cable, Patch, PatchModule } from '../patch/types.ts'
import { checkPatch } from '../patch/validate.ts'
import { dice, edited, KINDS, randomPatch, REDO, START, UNDO } from '../testing/edits.ts'
import { testKernels } from '../testing/kernels.ts'
import { Live } from '../testing/live.ts'
import { Engine } from './engine.ts'
import { Layout } from './layout.ts'
import { Planner } from './planner.ts'
import { Runtime } from './runtime.ts'

const RATE = 48000

const play = (patch: Patch, lengths: (n: number) => number, seconds = 0.12, rests = true): Float32Array => {
  const engine = new Engine(testKernels(), RATE)
  engine.runtime.allowRest(rests)
  const applied = engine.apply(patch)
  if (!applied.ok) throw new Error(applied.faults[0]!.message)
  engine.runtime.schedule(50, { type: 'on', note: 50, velocity: 0.9, id: 1 })
  engine.runtime.schedule(2000, { type: 'off', note: 50, velocity: 0, id: 1 })
  engine.runtime.schedule(2500, { type: 'on', note: 64, velocity: 0.5, id: 2 })
  const total = Math.round(seconds * RATE),
    left = new Float32Array(total),
    right = new Float32Array(128)
  for (let done = 0, n = 0; done < total; n += 1) {
    const length = Math.min(lengths(n), total - done)
    engine.runtime.process(left.subarray(done, done + length), right, 0, length)
    done += length
  }
  return left
}

describe('random graphs of all modules', () => {
  it('give the same samples at block sizes 1…128, resting or not', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 2 ** 31 - 1 }), (seed) => {
        const patch = randomPatch(seed, 10, 22)
        const whole = play(patch, () => 128)
        expect(whole.every(Number.isFinite)).toBe(true)
        expect(play(patch, (n) => 1 + ((Math.imul(n + seed, 2654435761) >>> 0) % 128))).toEqual(whole)
        expect(play(patch, () => 128, 0.12, false)).toEqual(whole)
      }),
      { numRuns: 25 },
    )
  })
})

describe('a thousand edits while it plays', () => {
  it('never break it, and leave what a fresh build would be; memory comes back', () => {
    const seed = 20260
    const roll = dice(seed),
      module = testKernels()
    const runtime = new Runtime(module, RATE),
      layout = new Layout(runtime.facts, RATE),
      planner = new Planner(layout, RATE)
    const left = new Float32Array(128),
      right = new Float32Array(128)
    const blocks = (count: number): void => {
      for (let n = 0; n < count; n += 1) {
        runtime.process(left, right, 0, 128)
        if (!left.every(Number.isFinite)) throw new Error(`not finite (seed ${seed})`)
      }
    }
    const take = (patch: Patch): void => {
      const step = planner.next(patch)
      if (step.kind === 'faults') throw new Error(`${step.faults[0]!.message} (seed ${seed})`)
      if (step.kind === 'plan') runtime.send(step.delta)
      if (step.kind === 'plan' || step.kind === 'events')
        for (const event of step.events) runtime.send({ event })
      blocks(2)
      if (step.kind === 'plan' && step.settles) {
        blocks(3 + Math.ceil(step.settles / 128))
        const settled = planner.settle()
        if (settled.kind === 'plan') runtime.send(settled.delta)
        blocks(1)
      }
    }
    take(START)
    blocks(10)
    const level = layout.memoryInUse
    let patch = START,
      next = 0
    const history: Patch[] = [],
      undone: Patch[] = []
    for (let edit = 0; edit < 1000; edit += 1) {
      const before = patch
      const kind = roll(KINDS)
      if (edit % 9 === 0)
        runtime.send({ event: { type: 'on', note: 40 + roll(40), velocity: 0.7, id: edit } })
      if (edit % 9 === 5) runtime.send({ event: { type: 'silence' } })
      if (kind === UNDO && history.length > 0) {
        undone.push(patch)
        patch = history.pop()!
        take(patch)
        continue
      }
      if (kind === REDO || (kind === UNDO && history.length === 0)) patch = undone.pop() ?? patch
      else patch = edited(patch, roll, kind, next++)
      if (patch !== before) history.push(before)
      take(patch)
    }
    expect(runtime.resets).toBeLessThan(2000)
    // The settled plan is the plan of a fresh build, of which nothing is known yet.
    const settled = planner.settle(),
      fresh = compile(structuredClone(patch), { sampleRate: RATE })
    if (!fresh.ok || settled.kind !== 'plan') throw new Error('not settled')
    expect(JSON.stringify(planner.plan)).toBe(JSON.stringify(fresh.plan))
    runtime.send(settled.delta)
    // No note hangs, and what the edits took is given back.
    runtime.send({ event: { type: 'silence' } })
    take(START)
    blocks(20)
    const idle = planner.settle()
    if (idle.kind === 'plan') runtime.send(idle.delta)
    blocks(5)
    const last = planner.settle()
    if (last.kind === 'plan') runtime.send(last.delta)
    blocks(400)
    expect(layout.memoryInUse).toBeLessThanOrEqual(level * 1.05 + 4096)
    expect(left.every((x) => Math.abs(x) < 1e-4)).toBe(true)
  }, 120000)
})

describe('edits while sines play', () => {
  it('make no step that the sines themselves could not make, and no block dear', () => {
    const seed = 77,
      roll = dice(seed)
    const SINES = 12,
      LEVEL = 0.06,
      HIGHEST = 800
    const sine = (n: number): PatchModule => ({
      id: `s${n}`,
      type: 'oscillator',
      params: { tracking: false, frequency: 150 + ((HIGHEST - 150) * n) / SINES },
    })
    const cable = (n: number, to: string): Cable => ({
      id: `c${n}${to}`,
      from: `s${n}.sine`,
      to: `${to}.in`,
      amount: LEVEL,
    })
    const live = new Live({
      ...START,
      modules: [
        ...Array.from({ length: SINES }, (_, n) => sine(n)),
        { id: 'a', type: 'amplifier' },
        { id: 'b', type: 'amplifier' },
        { id: 'out', type: 'output', params: { level: 0 } },
      ],
      cables: [
        cable(0, 'a'),
        { id: 'ao', from: 'a.out', to: 'out.in' },
        { id: 'bo', from: 'b.out', to: 'out.in' },
      ],
    })
    const usual: number[] = [],
      edited: number[] = []
    const timed = (into: number[], blocks: number): void => {
      for (let n = 0; n < blocks; n += 1) {
        const start = performance.now()
        live.run(128 / RATE)
        into.push(performance.now() - start)
      }
    }
    live.run(0.1)
    live.out.length = 0
    for (let edit = 0; edit < 1000; edit += 1) {
      const n = roll(SINES),
        to = roll(2) ? 'a' : 'b',
        id = `c${n}${to}`
      live.change((draft) => {
        const at = draft.cables.findIndex((item) => item.id === id)
        if (edit % 7 === 3) draft.modules.push({ id: `x${edit}`, type: 'noise', params: {} } as never)
        else if (edit % 7 === 5) draft.modules = draft.modules.filter((item) => !item.id.startsWith('x'))
        else if (at < 0) draft.cables.push(cable(n, to) as never)
        else if (roll(3) === 0) draft.cables[at]!.amount = LEVEL * (0.2 + roll(8) / 10)
        else draft.cables.splice(at, 1)
      })
      timed(edited, 3)
      timed(usual, 3)
    }
    let largestStep = 0
    for (let i = 1; i < live.out.length; i += 1)
      largestStep = Math.max(largestStep, Math.abs(live.out[i]! - live.out[i - 1]!))
    // Every sine on both ways at once, and all of them fading within 5 ms.
    const own = 2 * SINES * LEVEL * ((2 * Math.PI * HIGHEST) / RATE + 1 / 240)
    const at = (times: readonly number[], share: number): number =>
      [...times].sort((x, y) => x - y)[Math.floor(share * (times.length - 1))]!
    console.log(
      `1000 edits: largest step ${largestStep.toFixed(4)} of ${own.toFixed(4)} possible; blocks after an edit ${(at(edited, 0.5) / at(usual, 0.5)).toFixed(2)} times the usual (median), ${(at(edited, 0.99) / at(usual, 0.99)).toFixed(2)} times (99 %)`,
    )
    expect(largestStep).toBeGreaterThan(0)
    expect(largestStep).toBeLessThan(own)
  }, 120000)
})

describe('a day of silence', () => {
  it('costs no more at its end than at its beginning, with tails long decayed', () => {
    const result = checkPatch({
      format: 'ypsilon/patch',
      version: 1,
      modules: [
        { id: 'n', type: 'notes' },
        { id: 's', type: 'string' },
        { id: 'f', type: 'filter' },
        { id: 'l', type: 'delayline', params: { max: 1, feedback: 0.9 } },
        { id: 'd', type: 'drive' },
        { id: 'out', type: 'output' },
      ],
      cables: [
        { from: 'n.pitch', to: 's.pitch' },
        { from: 'n.gate', to: 's.gate' },
        { from: 's.out', to: 'f.in' },
        { from: 'f.low', to: 'l.in' },
        { from: 'l.out', to: 'd.in' },
        { from: 'd.out', to: 'out.in' },
      ],
    })
    if (!result.ok) throw new Error('not valid')
    const engine = new Engine(testKernels(), RATE)
    engine.apply(result.value)
    engine.runtime.send({ event: { type: 'on', note: 60, velocity: 1, id: 1 } })
    const left = new Float32Array(128),
      right = new Float32Array(128)
    for (let n = 0; n < 40000; n += 1) engine.runtime.process(left, right, 0, 128)
    // A denormal would be neither silence nor normal: every lane of every output is exactly 0 or large enough.
    for (const key of ['s.out', 'f.low', 'l.out', 'd.out']) {
      const signal = engine.layout.signal(key)!,
        lane = engine.runtime.laneOf(signal.address, 0),
        x = Math.abs(engine.runtime.f32(lane.address))
      expect(x === 0 || x > 1e-30, key).toBe(true)
    }
    expect(left.every((x) => x === 0)).toBe(true)
    // The rest of a day, as far as nothing but time passes; then a note sounds as it would have at first.
    const first = firstNote(new Engine(testKernels(), RATE), result.value)
    engine.runtime.skipTo(Math.ceil((24 * 3600 * RATE) / 128) * 128)
    for (let n = 0; n < 100; n += 1) engine.runtime.process(left, right, 0, 128)
    expect(left.every((x) => x === 0)).toBe(true)
    const last = firstNote(engine, undefined)
    // A pluck is noise of its own moment: as loud, not the same.
    expect(Math.abs(20 * Math.log10(last / first))).toBeLessThan(6)
  })
})

/** Loudest sample of half a second after a note. */
const firstNote = (engine: Engine, patch: Patch | undefined): number => {
  if (patch) engine.apply(patch)
  engine.runtime.send({ event: { type: 'on', note: 60, velocity: 1, id: 9 } })
  const left = new Float32Array(128),
    right = new Float32Array(128)
  let most = 0
  for (let n = 0; n < 188; n += 1) {
    engine.runtime.process(left, right, 0, 128)
    for (const x of left) most = Math.max(most, Math.abs(x))
  }
  return most
}
