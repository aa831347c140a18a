/** One settled plan a patch: what plays is what is checked and shown, and never an older or another one. */
import { describe, expect, it } from 'vitest'
import { Layout } from '../engine/layout.ts'
import { Planner } from '../engine/planner.ts'
import { Runtime } from '../engine/runtime.ts'
import { edit } from '../patch/document.ts'
import { setParam } from '../patch/edits.ts'
import { effectivePatch } from '../patch/macros.ts'
import type { Patch } from '../patch/types.ts'
import { parsePatch } from '../patch/validate.ts'
import { testKernels } from '../testing/kernels.ts'
import { compile } from './compile.ts'
import { compiled, shapesOf } from './compiled.ts'

const RATE = 48000
const patch = (macros: readonly object[] = []): Patch => {
  const result = parsePatch(
    JSON.stringify({
      format: 'ypsilon/patch',
      version: 1,
      modules: [
        { id: 'notes', type: 'notes', params: { voices: 3 } },
        { id: 'osc', type: 'oscillator' },
        { id: 'pan', type: 'pan' },
        { id: 'out', type: 'output' },
      ],
      cables: [
        { id: 'a', from: 'notes.pitch', to: 'osc.pitch' },
        { id: 'b', from: 'osc.saw', to: 'pan.in' },
        { id: 'c', from: 'pan.out', to: 'out.in' },
      ],
      macros,
    }),
  )
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return result.value
}
const edited = (from: Patch, octave: number): Patch => {
  const result = edit(from, 'Octave', (draft) => {
    setParam(draft, 'osc', 'octave', octave)
  })
  if (!result.ok) throw new Error('refused')
  return result.patch
}

describe('a settled plan', () => {
  it('is the one that plays, and the one a fresh build gives', () => {
    const planner = new Planner(new Layout(new Runtime(testKernels(), RATE).facts, RATE), RATE)
    const first = patch()
    planner.next(first)
    planner.settle()
    const result = compiled(first, { sampleRate: RATE, assets: new Map() })
    expect(result.ok && result.plan).toBe(planner.plan)
    expect(result).toEqual(compile(first, { sampleRate: RATE }))
  })

  it('is another for another patch, rate or recording, and for what macros move', () => {
    const first = patch(),
      one = compiled(first)
    expect(compiled(first)).toBe(one)
    expect(compiled(first, { sampleRate: 44100 })).not.toBe(one)
    expect(compiled(edited(first, 1))).not.toEqual(one)
    const sound = { id: 'wave', samples: new Float32Array(8), frames: 8, channels: 1, sampleRate: RATE }
    const sounds = new Map([['wave', sound as never]])
    const withSound = compiled(first, { assets: sounds })
    expect(compiled(first, { assets: new Map(sounds) })).toBe(withSound)
    expect(compiled(first, { assets: new Map([['wave', { ...sound } as never]]) })).not.toBe(withSound)
    const moved = patch([
      { id: 'm', name: 'M', value: 1, targets: [{ param: 'osc.octave', from: 0, to: 2 }] },
    ])
    expect(compiled(moved)).toBe(compiled(effectivePatch(moved)))
    expect(compiled(moved)).toEqual(compile(moved))
  })

  it('tells voices and sides of every output', () => {
    const result = compiled(patch())
    if (!result.ok) throw new Error('refused')
    const shapes = shapesOf(result.plan)
    expect(shapes.get('osc.saw')).toMatchObject({ voices: 3, sides: 1 })
    expect(shapes.get('pan.out')).toMatchObject({ voices: 3, sides: 2 })
    expect([...shapes.keys()].filter((key) => key.startsWith('notes.')).length).toBeGreaterThan(2)
  })
})
