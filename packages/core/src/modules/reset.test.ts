import { describe, expect, it } from 'vitest'
import { PUBLIC_MODULES } from '../catalogue.ts'
import { type ModuleDescription } from '../describe/types.ts'
import { hear, patchOf } from '../testing/bench.ts'

const RESETTABLE = PUBLIC_MODULES.filter(
  (module) =>
    module.family === 'sources' &&
    ['reset', 'pitch'].every((name) => module.inputs.some((port) => port.name === name)),
)
const TIMES = [0.1, 0.33333, 0.7]
/** What sounds after each of three notes that reset the source, while all else about it moves on. */
const hits = (module: ModuleDescription, params: Record<string, number | boolean>): Float32Array[][] => {
  const has = (name: string): boolean => module.inputs.some((port) => port.name === name)
  const patch = patchOf(
    [
      ['n', 'notes'],
      ['f', 'oscillator', { frequency: 3, tracking: false }],
      ['m', module.type, params],
    ],
    [
      'n.trigger > m.reset',
      'n.trigger > f.reset',
      'n.pitch > m.pitch',
      ...(has('phase') ? ['f.sine > m.phase * 0.3'] : []),
      ...(has('hz') ? ['f.sine > m.hz * 20'] : []),
    ],
  )
  const taps = module.outputs.map((port) => `m.${port.name}`)
  const play = TIMES.map((t) => `60@${t}+0.05`).join(' ')
  const heard = hear(patch, 1, { play, taps })
  return taps.map((tap) =>
    TIMES.map((t) => heard.tap(tap).slice(Math.round(t * 48000), Math.round(t * 48000) + 9000)),
  )
}

describe('a reset makes every hit the same', () => {
  it('on every source with a phase', () => {
    expect(RESETTABLE.map((module) => module.type).sort()).toEqual(
      expect.arrayContaining(['operator', 'oscillator', 'partials', 'phasor', 'unison', 'wavetable']),
    )
  })

  it.each(RESETTABLE.map((module) => [module.type, module] as const))('%s', (type, module) => {
    const params: Record<string, number | boolean> =
      type === 'operator' ? { envelope: false, feedback: 0.5 } : type === 'partials' ? { motion: 0.8 } : {}
    for (const [first, ...others] of hits(module, params)) {
      expect(first!.some((x) => x !== 0)).toBe(true)
      for (const other of others) expect(other).toEqual(first)
    }
  })
})
