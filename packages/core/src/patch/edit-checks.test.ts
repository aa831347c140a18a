/** An edit looks only at what it touched: it must find what a look at everything finds. */
import { current, type Draft } from 'immer'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { edit } from './document.ts'
import { type Cable, faultText, type Patch, type PatchModule } from './types.ts'
import { checkPatch } from './validate.ts'

const START: Patch = (() => {
  const result = checkPatch({
    format: 'ypsilon/patch',
    version: 1,
    modules: [
      { id: 'notes', type: 'notes' },
      { id: 'osc', type: 'oscillator' },
      { id: 'f', type: 'filter' },
      {
        id: 'box',
        type: 'group',
        inside: {
          modules: [
            { id: 'in1', type: 'portin' },
            { id: 'gain', type: 'amplifier' },
            { id: 'out1', type: 'portout' },
          ],
          cables: [
            { id: 'i1', from: 'in1.out', to: 'gain.in' },
            { id: 'i2', from: 'gain.out', to: 'out1.in' },
          ],
        },
      },
      { id: 'out', type: 'output' },
    ],
    cables: [
      { id: 'c1', from: 'notes.pitch', to: 'osc.pitch' },
      { id: 'c2', from: 'osc.saw', to: 'f.in' },
      { id: 'c3', from: 'f.low', to: 'box.in1' },
      { from: 'box.out1', to: 'out.in' },
    ],
  })
  if (!result.ok) throw new Error(result.faults.map(faultText).join('; '))
  return result.value
})()

type Careless = (draft: Draft<Patch>) => void
const onModule = (change: (module: Draft<PatchModule>) => void): fc.Arbitrary<Careless> =>
  fc.nat(4).map((at) => (draft) => {
    const module = draft.modules[at]
    if (module) change(module)
  })
const onCable = (change: (cable: Draft<Cable>) => void): fc.Arbitrary<Careless> =>
  fc.nat(3).map((at) => (draft) => {
    const cable = draft.cables[at]
    if (cable) change(cable)
  })

/** About half of them leave a fault somewhere, often far from where they were made. */
const careless: fc.Arbitrary<Careless> = fc.oneof(
  fc.nat(4).map((at): Careless => (draft) => {
    draft.modules.splice(at, 1)
  }),
  fc.constantFrom('filter', 'lfo', 'mix').chain((type) =>
    onModule((module) => {
      module.type = type
    }),
  ),
  fc.constantFrom('osc', 'new', 'gain').chain((id) =>
    onModule((module) => {
      module.id = id
    }),
  ),
  fc.constantFrom(100, 1e6, 'high', true).chain((value) =>
    onModule((module) => {
      module.params = { ...module.params, cutoff: value }
    }),
  ),
  fc.constantFrom('portin', 'portout', 'amplifier').map((type): Careless => (draft) => {
    const inner = draft.modules.find((module) => module.type === 'group')?.inside?.modules[0]
    if (inner) inner.type = type
  }),
  fc.constantFrom('f.in', 'f.cutoff', 'x.in').chain((to) =>
    onCable((cable) => {
      cable.to = to
    }),
  ),
  fc.constantFrom('c1', 'c9').chain((id) =>
    onCable((cable) => {
      cable.id = id
    }),
  ),
)

describe('an edit', () => {
  it('finds what a look at everything finds, whatever came before it', () => {
    let refused = 0
    fc.assert(
      fc.property(fc.array(careless, { minLength: 1, maxLength: 6 }), (all) => {
        let patch = START
        for (const made of all) {
          let whole: unknown
          const result = edit(patch, 'Try', (draft) => {
            made(draft)
            whole = current(draft)
          })
          const full = checkPatch(structuredClone(whole))
          const words = full.ok ? [] : full.faults.map(faultText)
          expect(result.ok ? [] : result.faults.map(faultText)).toEqual(words)
          if (result.ok) ({ patch } = result)
          else refused += 1
        }
      }),
      { numRuns: 300 },
    )
    expect(refused).toBeGreaterThan(100)
  })
})
