import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { patchOf } from '../testing/bench.ts'
import { edit } from './document.ts'
import type { Patch } from './types.ts'
import { connectBundle, connectEach, insertInCable, moveCables, targetsNamed, wireNew } from './wiring.ts'

const patch = (): Patch =>
  patchOf(
    [
      ['notes', 'notes'],
      ['a', 'oscillator'],
      ['b', 'oscillator'],
      ['filter', 'filter'],
      ['mix', 'mix'],
      ['lfo', 'lfo'],
      ['out', 'output'],
    ],
    [
      'sound: a.saw > filter.in * 0.5',
      'notes.pitch > a.pitch',
      'move: lfo.out > filter.cutoff * 2',
      'filter.low > out.in',
    ],
    { macros: [{ id: 'm', name: 'M', value: 0, targets: [{ param: 'cable:sound', from: 0, to: 1 }] }] },
  )
const ways = ({ cables }: Patch): string[] =>
  cables.map(({ from, to, amount = 1 }) => `${from} > ${to} * ${amount}`)
const edited = (recipe: Parameters<typeof edit>[2], before = patch()): Patch => {
  const result = edit(before, 'Test', recipe)
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return result.patch
}

describe('a new module', () => {
  const after = (id: string, ends: Parameters<typeof wireNew>[2]): string[] => {
    const old = new Set(ways(patch()))
    return ways(
      edited((draft) => {
        wireNew(draft, id, ends)
      }),
    ).filter((way) => !old.has(way))
  }
  it('takes a source where it is likeliest to go, and goes on to a target by its main output', () => {
    expect(after('mix', { from: 'b.saw', to: 'out.in' })).toEqual([
      'b.saw > mix.in1 * 1',
      'mix.out > out.in * 1',
    ])
    expect(after('b', { from: 'notes.pitch' })).toEqual(['notes.pitch > b.pitch * 1'])
  })
  it('leaves open what it has nothing for', () => {
    expect(after('out', { to: 'filter.in' })).toEqual([])
    expect(after('b', {})).toEqual([])
  })
})

describe('a module in a cable', () => {
  it('lets through it what the cable carried, which keeps its id, amount and target', () => {
    let isIn = false
    const after = edited((draft) => {
      isIn = insertInCable(draft, 'sound', 'mix')
    })
    expect(isIn).toBe(true)
    expect(after.cables.find(({ id }) => id === 'sound')).toMatchObject({
      from: 'mix.out',
      to: 'filter.in',
      amount: 0.5,
    })
    expect(ways(after)).toContain('a.saw > mix.in1 * 1')
    expect(after.macros?.[0]?.targets).toHaveLength(1)
  })
  it('is refused where it has no way through for what the cable carries, is an end of it, or the cable is gone', () => {
    const before = ways(patch())
    for (const [cable, module] of [
      ['sound', 'out'],
      ['sound', 'lfo'],
      ['sound', 'a'],
      ['sound', 'filter'],
      ['nothing', 'mix'],
      ['sound', 'nothing'],
    ] as const) {
      let isIn = true
      const after = edited((draft) => {
        isIn = insertInCable(draft, cable, module)
      })
      expect(isIn, `${module} into ${cable}`).toBe(false)
      expect(ways(after)).toEqual(before)
    }
  })
})

describe('several cables', () => {
  it('of a bundle go to an input and to those that follow it, and add up at the last', () => {
    const after = edited((draft) => {
      connectBundle(draft, ['a.saw', 'b.saw', 'lfo.out'], 'mix.in1')
    })
    expect(ways(after).slice(4)).toEqual([
      'a.saw > mix.in1 * 1',
      'b.saw > mix.in2 * 1',
      'lfo.out > mix.in3 * 1',
    ])
    const alone = edited((draft) => {
      connectBundle(draft, ['a.sine', 'b.sine'], 'out.in')
    })
    expect(
      ways(alone)
        .filter((way) => way.includes('sine'))
        .map((way) => way.split(' > ')[1]!.split('.')[0]),
    ).toEqual(['out', 'out'])
  })
  it('of a bundle pass by inputs that have one', () => {
    const before = edited((draft) => {
      draft.cables.push({ id: 'x', from: 'b.sine', to: 'mix.in2' })
    })
    const after = edited((draft) => {
      connectBundle(draft, ['a.saw', 'b.saw'], 'mix.in1')
    }, before)
    expect(ways(after).slice(5)).toEqual(['a.saw > mix.in1 * 1', 'b.saw > mix.in3 * 1'])
  })
  it('of one source go to what has a port of that name', () => {
    const targets = targetsNamed(patch(), ['a', 'b', 'filter', 'out'], 'pitch')
    expect(targets).toEqual(['a.pitch', 'b.pitch', 'filter.pitch'])
    const after = edited((draft) => {
      connectEach(draft, 'notes.pitch', targets)
    })
    // The one that was there is not there twice.
    expect(ways(after).filter((way) => way.startsWith('notes.pitch')).length).toBe(3)
  })
  it('of a port move together, whatever is at the other one: as many ways as before, none twice', () => {
    const names = ['a.saw', 'b.saw', 'lfo.out'],
      ends = ['filter.in', 'mix.in1', 'mix.in2', 'out.in']
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.tuple(fc.nat(2), fc.nat(3)), { selector: String, maxLength: 12 }),
        fc.nat(3),
        fc.nat(3),
        (pairs, p, q) => {
          const before = {
            ...patch(),
            cables: pairs.map(([a, b], n) => ({ id: `c${n}`, from: names[a]!, to: ends[b]! })),
            macros: [],
          }
          const after = edited((draft) => {
            moveCables(draft, ends[p]!, ends[q]!, 'to')
          }, before)
          const wanted = new Set(pairs.map(([a, b]) => `${names[a]} > ${ends[b === p ? q : b]} * 1`))
          expect(new Set(ways(after))).toEqual(wanted)
          expect(after.cables).toHaveLength(wanted.size)
        },
      ),
    )
  })
})
