import { describe, expect, it } from 'vitest'
import { PUBLIC_MODULES } from '../catalogue.ts'
import { hear, patchOf } from '../testing/bench.ts'

const AT = 5000
/** The end of the slot of 128 frames in which it happens, and of the next. */
const SLOT = 128 * Math.ceil(AT / 128)

/** A sine with a sample in it that any sum or product with itself turns into infinity. */
const broken = Float32Array.from({ length: 12000 }, (_, i) => (i === AT ? 3e38 : 0.5 * Math.sin(0.1 * i)))

const MODULES = PUBLIC_MODULES.filter(
  (module) =>
    !module.flattened && module.outputs.length > 0 && module.inputs.some((port) => port.kind === 'audio'),
)

describe('a broken sample', () => {
  it.each(MODULES.map((module) => [module.type, module] as const))('is contained in %s', (type, module) => {
    const port = module.inputs.find((item) => item.kind === 'audio')!
    const taps = module.outputs.map((item) => `m.${item.name}`)
    const heard = hear(
      patchOf(
        [
          ['i', 'input'],
          ['m', type],
        ],
        [`i.out > m.${port.name}`],
      ),
      0.25,
      { input: { rate: 48000, channels: [broken, broken] }, taps },
    )
    for (const tap of taps)
      for (const x of heard.lanes(tap)) {
        // At most the sample itself passes through what only adds and scales.
        const bad = [...x.keys()].filter((i) => !Number.isFinite(x[i]!))
        expect(
          bad.filter((i) => i !== AT),
          tap,
        ).toEqual([])
        // It is over with the slot: nothing is stuck.
        for (let i = SLOT + 128; i < x.length; i += 1)
          expect(Math.abs(x[i]!), `${tap} ${i}`).toBeLessThan(1e4)
      }
  })
})
