/** Days of playing: what a module does may not depend on how long the engine has run, nor change when counters wrap. */
import { describe, expect, it } from 'vitest'
import { PUBLIC_MODULES } from '../catalogue.ts'
import { Engine } from '../engine/engine.ts'
import { patchOf } from '../testing/bench.ts'
import { testKernels } from '../testing/kernels.ts'
import { play, surround, whole } from '../testing/surround.ts'

const MODULES = PUBLIC_MODULES.filter((module) => !module.flattened && module.role !== 'output')
/** Frames of the counters: signed and unsigned 32 bits, in the middle of what is played; a multiple of every ring. */
const WRAPS = [2 ** 31, 2 ** 32]
const BEFORE = 4096

/** What draws its noise by the number of the frame: another sound at another time, but never a broken one. */
const BY_THE_FRAME = new Set(['string'])

describe('the same sound', () => {
  it.each(MODULES.map((module) => [module.type, module] as const))('%s', (_type, module) => {
    const patch = surround(module, { voices: 2, stereo: false })
    const early = play(patch, module, 0.2, whole).outputs
    const wrong: string[] = []
    for (const wrap of WRAPS) {
      const late = play(patch, module, 0.2, whole, 1, false, true, ({ runtime }) => {
        runtime.skipTo(wrap - BEFORE)
      }).outputs
      for (const [port, rows] of early) {
        const other = late.get(port)!
        const loudest = rows.reduce((most, x) => Math.max(most, Math.abs(x)), 0)
        const isWrong = BY_THE_FRAME.has(module.type)
          ? (_x: number, i: number): boolean => !(Math.abs(other[i]!) <= 2 * loudest)
          : (x: number, i: number): boolean => !(Math.abs(x - other[i]!) <= 1e-4 * (1 + Math.abs(x)))
        const at = rows.findIndex(isWrong)
        if (at >= 0) wrong.push(`${port} at ${wrap}: frame ${at}: ${rows[at]} / ${other[at]}`)
      }
    }
    expect(wrong).toEqual([])
  })
})

describe('time itself', () => {
  const heardAt = (frame: number): { beats: number; values: number[] } => {
    const engine = new Engine(testKernels(), 48000)
    engine.layout.watchRing('f.x')
    const applied = engine.apply(patchOf([['f', 'formula', {}, { data: { text: 'x = t' } }]], []))
    if (!applied.ok) throw new Error(applied.faults[0]!.message)
    engine.runtime.skipTo(frame - 1280)
    const left = new Float32Array(128),
      right = new Float32Array(128),
      values: number[] = []
    for (let n = 0; n < 20; n += 1) {
      engine.runtime.process(left, right, 0, 128)
      const { address } = engine.runtime.laneOf(engine.layout.signal('f.x')!.address, 0)
      values.push(engine.runtime.f32(address))
    }
    return { beats: engine.runtime.beats, values }
  }

  it('goes on in formulas and beats when the counters come round', () => {
    for (const wrap of [2 ** 30, 2 ** 31, 2 ** 32, 3 * 2 ** 32]) {
      const { beats, values } = heardAt(wrap)
      values.forEach((value, n) => {
        expect(Math.abs(value - (wrap - 1280 + n * 128) / 48000)).toBeLessThan(value * 1e-6)
      })
      // 120 bpm since the line began.
      expect(beats).toBeCloseTo(((20 * 128) / 48000) * 2, 6)
    }
  })
})
