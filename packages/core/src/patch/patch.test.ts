import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyChange, edit, revertChange } from './document.ts'
import { EMPTY_HISTORY, record, redo, undo } from './history.ts'
import { duplicate } from './duplicate.ts'
import { addModule, connect, removeModules, setParam } from './edits.ts'
import { migrate } from './migrate.ts'
import { emptyPatch, faultText, type Patch } from './types.ts'
import { checkPatch, parsePatch } from './validate.ts'

const base = {
  format: 'ypsilon/patch',
  version: 1,
  modules: [
    { id: 'osc', type: 'oscillator' },
    { id: 'f', type: 'filter' },
    { id: 'out', type: 'output' },
  ],
  cables: [{ from: 'osc.saw', to: 'f.in' }],
}
const faultsOf = (change: object): string[] => {
  const result = checkPatch({ ...base, ...change })
  return result.ok ? [] : result.faults.map(faultText)
}
const withModule = (module: object): object => ({ modules: [...base.modules, module] })
const withCable = (cable: object): object => ({ cables: [...base.cables, cable] })

describe('reading patches', () => {
  it.each([
    [
      'out of range',
      withModule({ id: 'g', type: 'filter', params: { cutoff: 90000 } }),
      'modules[3].params.cutoff: 90000 is above 20000 Hz',
    ],
    [
      'wrong type of value',
      withModule({ id: 'g', type: 'filter', params: { cutoff: 'high' } }),
      'modules[3].params.cutoff: expected a number, found "high"',
    ],
    [
      'unknown choice',
      withModule({ id: 'g', type: 'filter', params: { slope: '18' } }),
      'modules[3].params.slope: "18" is not one of "12", "24"',
    ],
    [
      'switch that is no boolean',
      withModule({ id: 'e', type: 'envelope', params: { loop: 1 } }),
      'modules[3].params.loop: expected true or false, found 1',
    ],
    [
      'whole numbers',
      withModule({ id: 'n', type: 'notes', params: { voices: 2.5 } }),
      'modules[3].params.voices: 2.5 is not a whole number',
    ],
    [
      'double id',
      withModule({ id: 'osc', type: 'mix' }),
      'modules[3].id: "osc" is already the id of modules[0]',
    ],
    [
      'bad id',
      withModule({ id: 'Osc', type: 'mix' }),
      'modules[3].id: "Osc" is not an id (a small letter, then letters, digits or _)',
    ],
    ['missing type', withModule({ id: 'x' }), 'modules[3].type: is missing'],
    [
      'dangling cable',
      withCable({ from: 'ghost.out', to: 'f.in' }),
      'cables[1].from: there is no module "ghost"',
    ],
    [
      'no port in it',
      withCable({ from: 'osc', to: 'f.in' }),
      'cables[1].from: "osc" does not name a port (module.port)',
    ],
    [
      'set-only target',
      withCable({ from: 'osc.saw', to: 'f.slope' }),
      'cables[1].to: slope of filter is set only: it takes no cable',
    ],
    [
      'amount that is no number',
      withCable({ from: 'osc.saw', to: 'f.in', amount: 'half' }),
      'cables[1].amount: expected a number, found "half"',
    ],
    [
      'newer version',
      { version: 2 },
      'version: this file is of version 2; this application reads up to 1. Open it with a newer one',
    ],
    ['another format', { format: 'other' }, 'format: "other" is not "ypsilon/patch"'],
    ['modules that are no list', { modules: {} }, 'modules: expected a list, found an object'],
    ['tempo', { tempo: 500 }, 'tempo: 500 is above 300 bpm'],
    [
      'macro target',
      { macros: [{ id: 'm', name: 'M', value: 0, targets: [{ param: 'f.nothing', from: 0, to: 1 }] }] },
      'macros[0].targets[0].param: filter has no parameter "nothing"',
    ],
  ])('names the place: %s', (_name, change, expected) => {
    expect(faultsOf(change)).toEqual([expected])
  })

  it('says which ports and parameters there are', () => {
    expect(faultsOf(withCable({ from: 'osc.sawtooth', to: 'f.in' }))[0]).toContain(
      'oscillator has no output "sawtooth" (it has sine, triangle, saw, pulse, sub)',
    )
    expect(faultsOf(withModule({ id: 'g', type: 'filter', params: { wetness: 1 } }))[0]).toContain(
      'filter has no parameter "wetness"',
    )
  })
  it('finds every fault at once', () => {
    expect(
      faultsOf({
        modules: [...base.modules, { id: 'a', type: 'filter', params: { cutoff: -1, slope: 3 } }],
        cables: [{ from: 'x.y', to: 'osc.nope' }],
      }),
    ).toHaveLength(4)
  })
  it('is no JSON', () => {
    const result = parsePatch('{"format": ')
    expect(result.ok).toBe(false)
  })
  it('keeps unknown types with a warning, and unknown fields', () => {
    const result = checkPatch({
      ...base,
      mine: 1,
      modules: [...base.modules, { id: 'u', type: 'timeMachine', params: { x: 1 }, extra: [1] }],
      cables: [{ from: 'u.anything', to: 'f.in' }],
    })
    if (!result.ok) throw new Error(result.faults.map(faultText).join())
    expect(result.warnings.map(faultText)).toEqual([
      'modules[3].type: "timeMachine" is not known to this version; it stays as a silent placeholder',
    ])
    expect(result.value['mine']).toBe(1)
    expect(result.value.modules[3]!['extra']).toEqual([1])
  })
  it('never throws, whatever comes', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        checkPatch(value)
      }),
      { numRuns: 300 },
    )
    fc.assert(
      fc.property(
        fc.record({
          modules: fc.array(
            fc.record({
              id: fc.jsonValue(),
              type: fc.constantFrom('oscillator', 'group', 'busin', 7, null),
              params: fc.jsonValue(),
              inside: fc.jsonValue(),
            }),
          ),
          cables: fc.array(fc.record({ from: fc.jsonValue(), to: fc.jsonValue() })),
          macros: fc.jsonValue(),
          snapshots: fc.jsonValue(),
        }),
        (value) => {
          checkPatch({ format: 'ypsilon/patch', version: 1, ...value })
        },
      ),
      { numRuns: 300 },
    )
    fc.assert(
      fc.property(fc.string(), (text) => {
        parsePatch(text)
      }),
      { numRuns: 300 },
    )
  })
  it('migrates step by step and stamps last', () => {
    const steps = [(patch: Patch) => ({ ...patch, name: `${patch.name}!` })]
    expect(migrate({ ...emptyPatch('A'), version: 1 }, steps)).toMatchObject({ name: 'A!', version: 2 })
    expect(() => migrate({ ...emptyPatch(), version: 0 }, steps)).toThrow('No migration from version 0')
  })
})

type Act = 'add' | 'connect' | 'remove' | 'set' | 'copy'
const acts = fc.array(
  fc.tuple(fc.constantFrom<Act>('add', 'connect', 'remove', 'set', 'copy'), fc.nat(1000), fc.nat(1000)),
  { maxLength: 40 },
)
const TYPES = ['oscillator', 'filter', 'mix', 'envelope', 'delayline']

/** Does one of the acts to a patch; whatever it is, the result is valid or refused. */
const act = (patch: Patch, [kind, a, b]: readonly [Act, number, number]) =>
  edit(patch, kind, (draft) => {
    const pick = (n: number): string => draft.modules[n % Math.max(1, draft.modules.length)]?.id ?? ''
    if (kind === 'add' || draft.modules.length === 0) addModule(draft, TYPES[a % TYPES.length]!, a, b)
    else if (kind === 'connect') {
      const to = draft.modules.find((module) => module.id === pick(b))!
      const from = draft.modules.find((module) => module.type === 'mix')
      if (from && to.type === 'mix') connect(draft, `${from.id}.out`, `${to.id}.in${1 + (a % 4)}`)
    } else if (kind === 'remove') removeModules(draft, new Set([pick(a)]))
    else if (kind === 'set') {
      const module = draft.modules.find((item) => item.id === pick(a))!
      if (module.type === 'filter') setParam(draft, module.id, 'cutoff', 20 + b)
    } else duplicate(draft, [pick(a), pick(b)], 12, a % 2 === 0)
  })

describe('editing', () => {
  it('undoes everything to the identical document and redoes it', () => {
    fc.assert(
      fc.property(acts, (list) => {
        const start = emptyPatch()
        let patch: Patch = start,
          history = EMPTY_HISTORY
        for (const item of list) {
          const result = act(patch, item)
          if (!result.ok) throw new Error(result.faults.map(faultText).join())
          expect(applyChange(patch, result.change)).toEqual(result.patch)
          expect(revertChange(result.patch, result.change)).toEqual(patch)
          expect(JSON.parse(JSON.stringify(result.change))).toEqual(result.change)
          patch = result.patch
          history = record(history, result.change)
        }
        const end = patch
        for (let step = undo(patch, history); step; step = undo(patch, history)) {
          patch = step.patch
          history = step.history
        }
        expect(patch).toEqual(start)
        for (let step = redo(patch, history); step; step = redo(patch, history)) {
          patch = step.patch
          history = step.history
        }
        expect(patch).toEqual(end)
      }),
      { numRuns: 120 },
    )
  })
  it('refuses an edit that breaks the patch and changes nothing', () => {
    const result = checkPatch(base)
    if (!result.ok) throw new Error()
    const refused = edit(result.value, 'bad', (draft) => {
      setParam(draft, 'f', 'cutoff', 1e9)
    })
    expect(refused.ok).toBe(false)
    expect(result.value).toEqual(
      base.modules
        ? { cables: base.cables, name: 'Untitled', format: base.format, version: 1, modules: base.modules }
        : {},
    )
  })
  it('merges one gesture into one step', () => {
    let patch = emptyPatch(),
      history = EMPTY_HISTORY
    for (const [value, gesture] of [
      [0, undefined],
      [100, 'g'],
      [200, 'g'],
      [300, 'g'],
    ] as const) {
      const result = edit(
        patch,
        'x',
        (draft) => {
          if (value === 0) addModule(draft, 'filter', 0, 0)
          else setParam(draft, 'filter', 'cutoff', value)
        },
        gesture === undefined ? {} : { gesture },
      )
      if (!result.ok) throw new Error()
      patch = result.patch
      history = record(history, result.change)
    }
    expect(history.past).toHaveLength(2)
    expect(undo(patch, history)!.patch.modules[0]!.params).toBeUndefined()
  })
  it('gives copies fresh ids with the wiring between and, if wished, into them', () => {
    const result = checkPatch({ ...base, cables: [{ id: 'a', from: 'osc.saw', to: 'f.in' }] })
    if (!result.ok) throw new Error()
    const plain = edit(result.value, 'copy', (draft) => {
      duplicate(draft, ['f'], 0)
    })
    const wired = edit(result.value, 'copy', (draft) => {
      duplicate(draft, ['f'], 0, true)
    })
    expect(plain.ok && plain.patch.cables).toHaveLength(1)
    expect(wired.ok && wired.patch.cables.at(-1)).toMatchObject({ from: 'osc.saw', to: 'filter.in' })
  })
})
