/** Variations: what moves and what stays, that only good ones are kept, the same from a seed however they are heard. */
import { produce } from 'immer'
import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../../catalogue.ts'
import { checkPatch } from '../../patch/validate.ts'
import { removeModules } from '../../patch/edits.ts'
import { setValueOf } from '../../patch/targets.ts'
import type { Patch, VarySettings } from '../../patch/types.ts'
import { withSettings } from '../../render/render.ts'
import { hear as heard, patchOf } from '../../testing/bench.ts'
import { testKernels } from '../../testing/kernels.ts'
import { demoPatch, steadyVoice } from '../../testing/patches.ts'
import { own } from '../../units/own.ts'
import type { VariationValues } from '../kit/plan.ts'
import { bred, differing, drawn } from './draw.ts'
import { knobsOf } from './knobs.ts'
import { distanceOf } from './print.ts'
import { hear, NEAR_DB, PHRASE, shortage, vary } from './vary.ts'

const withVary = (patch: Patch, settings: VarySettings): Patch => {
  const checked = checkPatch({ ...patch, vary: settings })
  if (!checked.ok)
    throw new Error(checked.faults.map(({ place, message }) => `${place}: ${message}`).join('\n'))
  return checked.value
}
const faultsOf = (limits: Readonly<Record<string, unknown>>): string[] => {
  const checked = checkPatch({ ...steadyVoice(), vary: { limits } })
  return checked.ok ? [] : checked.faults.map(({ place, message }) => `${place}: ${message}`)
}
const targets = (patch: Patch): string[] => knobsOf(patch).map(({ target }) => target)
/** What many draws give one target. */
const valuesOf = (patch: Patch, target: string): (number | string | boolean)[] => {
  const knobs = knobsOf(patch)
  return Array.from({ length: 300 }, (_, n) => new Map(drawn(knobs, 3, n, 1)).get(target)).filter(
    (value) => value !== undefined,
  )
}

describe('what may be moved', () => {
  it('is neither pitch, nor the output, nor what is set only, a formula or a macro’s', () => {
    const patch = patchOf(
      [
        ['n', 'notes'],
        ['o', 'oscillator', { width: '=0.3 + 0.1' }],
        ['f', 'filter'],
        ['out', 'output'],
      ],
      ['n.pitch > o.pitch', 'o.saw > f.in', 'f.low > out.in'],
      {
        macros: [
          { id: 'm', name: 'M', value: 0.4, targets: [{ param: 'f.cutoff', from: 200, to: 4000 }] },
          { id: 'held', name: 'H', value: 0.4, locked: true, targets: [] },
        ],
      },
    )
    const all = targets(patch)
    expect(all).toContain('f.resonance')
    expect(all).toContain('macro:m')
    for (const target of [
      'f.cutoff',
      'macro:held',
      'o.octave',
      'o.semitones',
      'o.fine',
      'o.frequency',
      'o.width',
      'out.level',
    ])
      expect(all).not.toContain(target)
    expect(all.some((target) => target.startsWith('n.'))).toBe(false)
    for (const target of all) {
      const [id, name] = target.split('.')
      const type = patch.modules.find((module) => module.id === id)?.type
      if (type) expect(CATALOGUE.get(type)!.params.get(name!)!.setOnly).not.toBe(true)
    }
  })
  it('is what a limit names besides, but never what is locked', () => {
    const patch = withVary(steadyVoice(), {
      limits: {
        'o.fine': { low: -10, high: 10 },
        'f.cutoff': { lock: true },
        'n.voices': { low: 1, high: 4 },
      },
    })
    expect(targets(patch)).toContain('o.fine')
    expect(targets(patch)).toContain('n.voices')
    expect(targets(patch)).not.toContain('f.cutoff')
    for (const voices of valuesOf(patch, 'n.voices')) expect([1, 2, 3, 4]).toContain(voices)
  })
  it('is said by every module in names it has', () => {
    for (const { description, params } of CATALOGUE.values())
      if (Array.isArray(description.stays))
        for (const name of description.stays as string[])
          expect([description.type, params.has(name)]).toEqual([description.type, true])
  })
  it('goes with its module: no limit is left of what is taken out', () => {
    const patch = withVary(steadyVoice(), {
      limits: { 'f.cutoff': { lock: true }, 'o.fine': { low: -5, high: 5 } },
    })
    const without = produce(patch, (draft) => {
      removeModules(draft, new Set(['f']))
    })
    expect(Object.keys(without.vary!.limits!)).toEqual(['o.fine'])
    expect(checkPatch(without).ok).toBe(true)
  })
  it.each([
    [{ 'f.nothing': {} }, /^vary\.limits\["f\.nothing"\]: filter has no parameter/],
    [{ 'gone.level': {} }, /there is no module "gone"/],
    [{ 'f.cutoff': 3 }, /expected an object, found 3/],
    [{ 'f.cutoff': { low: 5 } }, /\.low: 5 is below/],
    [{ 'f.cutoff': { low: 900, high: 300 } }, /\.high: 300 is below the other end, 900/],
    [{ 'f.cutoff': { spread: 2 } }, /\.spread: 2 is above 1/],
    [{ 'f.cutoff': { lock: 1 } }, /\.lock: expected true or false/],
    [{ 'f.cutoff': { choices: ['a'] } }, /\.choices: it has no words/],
    [{ 'f.slope': { choices: ['48'] } }, /\.choices: /],
    [{ 'f.slope': { choices: [] } }, /\.choices: is empty/],
    [{ 'f.slope': { low: 1 } }, /\.low: it has no range/],
  ])('%j is refused with its place', (limits, expected) => {
    expect(faultsOf(limits).join('\n')).toMatch(expected)
  })
})

describe('a draw', () => {
  it('stays within its spread, in octaves for what is heard in octaves', () => {
    const patch = withVary(
      patchOf(
        [
          ['f', 'filter', { cutoff: 1000 }],
          ['out', 'output'],
        ],
        ['f.low > out.in'],
      ),
      { limits: { 'f.cutoff': { low: 250, high: 4000, spread: 0.25 } } },
    )
    const values = valuesOf(patch, 'f.cutoff').map(Number)
    // A quarter of four octaves on both sides.
    expect(Math.min(...values)).toBeGreaterThanOrEqual(500)
    expect(Math.max(...values)).toBeLessThanOrEqual(2000)
    expect(Math.min(...values)).toBeLessThan(530)
    expect(Math.max(...values)).toBeGreaterThan(1900)
    const mean = values.reduce((sum, value) => sum + Math.log2(value / 1000), 0) / values.length
    expect(Math.abs(mean)).toBeLessThan(0.1)
  })
  it('with a spread of 1 is anywhere in the range, wherever it stood', () => {
    const patch = withVary(
      patchOf(
        [
          ['f', 'filter', { cutoff: 4000 }],
          ['out', 'output'],
        ],
        ['f.low > out.in'],
      ),
      { limits: { 'f.cutoff': { low: 250, high: 4000, spread: 1 } } },
    )
    const values = valuesOf(patch, 'f.cutoff').map(Number)
    expect(values.filter((value) => value < 1000).length).toBeGreaterThan(100)
    expect(Math.min(...values)).toBeGreaterThanOrEqual(250)
  })
  it('takes words from its choices alone, and whole numbers where they are whole', () => {
    const patch = withVary(
      patchOf(
        [
          ['l', 'lfo'],
          ['p', 'partials'],
          ['out', 'output'],
        ],
        ['p.out > out.in'],
      ),
      { spread: 1, limits: { 'l.shape': { choices: ['sine', 'square'] } } },
    )
    expect(new Set([...valuesOf(patch, 'l.shape'), 'sine'])).toEqual(new Set(['sine', 'square']))
    for (const count of valuesOf(patch, 'p.count')) expect(Number.isInteger(count)).toBe(true)
  })
  it('moves something, even with no chance, and is the same from its seed and number', () => {
    const knobs = knobsOf(steadyVoice())
    for (let n = 0; n < 50; n += 1) {
      expect(drawn(knobs, 1, n, 0).length).toBe(1)
      expect(drawn(knobs, 1, n, 0.5)).toEqual(drawn(knobs, 1, n, 0.5))
    }
    expect(drawn(knobs, 1, 0, 0.5)).not.toEqual(drawn(knobs, 2, 0, 0.5))
  })
  it.each(['harbour-bell', 'tape-loft', 'storm-wire', 'overtone-lantern', 'rain-on-glass'])(
    'of %s is a patch without faults, every time',
    (name) => {
      const patch = demoPatch(name),
        knobs = knobsOf(patch, 1)
      for (let n = 0; n < 20; n += 1) {
        const checked = checkPatch(JSON.parse(JSON.stringify(withSettings(patch, drawn(knobs, 9, n, 1)))))
        expect(checked.ok ? [] : checked.faults).toEqual([])
      }
    },
  )
})

describe('what is kept', () => {
  const source = (patch: Patch) => ({ patch, assets: new Map() })
  const made = (patch: Patch, draw: (n: number) => VariationValues, count: number, width: number) =>
    vary({
      count,
      width,
      draw,
      listen: (values) =>
        Promise.resolve(hear(testKernels(), source(patch), values, { ...PHRASE, hold: 0.2, tail: 0.2 })),
    })
  it('is the same however many are heard at once, and far enough from each other', async () => {
    const patch = demoPatch('slate-drum'),
      knobs = knobsOf(patch)
    const runs = await Promise.all(
      [1, 2, 5].map((width) => made(patch, (n) => drawn(knobs, 4, n, 0.5), 4, width)),
    )
    const values = runs.map(({ variations }) => JSON.stringify(variations.map((one) => one.values)))
    expect(new Set(values).size).toBe(1)
    const [{ variations }] = runs as [(typeof runs)[0]]
    expect(variations).toHaveLength(4)
    variations.forEach(({ print, distance }, n) => {
      expect(distance).toBeGreaterThanOrEqual(NEAR_DB)
      for (const other of variations.slice(0, n))
        expect(distanceOf(print, other.print)).toBeGreaterThanOrEqual(NEAR_DB)
    })
  })
  it('is never silent, never limited, never twice the same; a shortage says why', async () => {
    const patch = steadyVoice()
    const kinds: readonly VariationValues[] = [
      [['out.level', -60]],
      [
        ['o.level', 2],
        ['f.drive', 36],
        ['out.level', 12],
      ],
      [['f.resonance', 0.0001]],
      [['f.cutoff', 200]],
      [['f.cutoff', 201]],
    ]
    const report = await made(patch, (n) => kinds[n % kinds.length]!, 2, 2)
    expect(report.variations.map(({ values }) => values)).toEqual([[['f.cutoff', 200]]])
    expect([report.silent > 0, report.limited > 0, report.near > 0]).toEqual([true, true, true])
    expect(shortage(report, 2)).toMatch(
      /^1 of 2 variations after 40 were drawn \(.*sounded almost as another.*widen/,
    )
    expect(shortage(report, 1)).toBeUndefined()
  })
})

describe('children', () => {
  const parents = [
    withSettings(steadyVoice(), [
      ['f.cutoff', 400],
      ['f.slope', '12'],
      ['o.octave', -1],
    ]),
    withSettings(steadyVoice(), [
      ['f.cutoff', 6400],
      ['f.slope', '24'],
      ['o.octave', -1],
    ]),
  ]
  it('have every value of either or between them, and nothing else', () => {
    const differences = differing(parents)
    expect(differences.map(({ target }) => target).sort()).toEqual(['f.cutoff', 'f.slope'])
    const cutoffs: number[] = [],
      slopes = new Set<unknown>()
    for (let n = 0; n < 200; n += 1) {
      const child = withSettings(parents[0]!, bred(parents, differences, 1, n))
      cutoffs.push(Number(setValueOf(child, 'f.cutoff')))
      slopes.add(setValueOf(child, 'f.slope'))
      expect(own(child.modules[1]!.params, 'octave')).toBe(-1)
    }
    expect([Math.min(...cutoffs), Math.max(...cutoffs)]).toEqual([400, 6400])
    expect(cutoffs.some((hz) => hz > 410 && hz < 6300)).toBe(true)
    expect(slopes).toEqual(new Set(['12', '24']))
  })
  it('of patches of another shape have what both know, on the first', () => {
    const [first] = parents as [Patch],
      other = patchOf(
        [
          ['f', 'filter', { cutoff: 90 }],
          ['out', 'output', { level: -3 }],
        ],
        ['f.low > out.in'],
      )
    expect(
      differing([first, other])
        .map(({ target }) => target)
        .sort(),
    ).toEqual(['f.cutoff', 'out.level'])
    expect(differing([first, first])).toEqual([])
    const values = bred([first, other], differing([first, other]), 2, 1)
    expect(heard(withSettings(first, values), 0.1, { play: '60@0+0.1' }).out.length).toBe(4800)
  })
})
