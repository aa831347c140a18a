/** Patches that are valid or nearly so and hard on whoever walks them: circles, layers, sheer size. */

import { Dice } from '../units/dice.ts'

type Plain = Record<string, unknown>
const patch = (modules: readonly Plain[], cables: readonly Plain[], more: Plain = {}): Plain => ({
  format: 'ypsilon/patch',
  version: 1,
  name: 'Hard',
  modules,
  cables,
  ...more,
})
const range = (count: number): number[] => Array.from({ length: count }, (_, n) => n)
const osc: Plain = { id: 'osc', type: 'oscillator' }
const out: Plain = { id: 'out', type: 'output' }
const busPair = (name: string): Plain[] => [
  { id: `${name}i`, type: 'busin', params: { bus: name } },
  { id: `${name}o`, type: 'busout', params: { bus: name } },
]
const doubled = (from: string, to: string, amount?: number): Plain[] => [
  { from, to, ...(amount === undefined ? {} : { amount }) },
  { from, to, ...(amount === undefined ? {} : { amount }) },
]

/** A bus that feeds itself by `count` cables of `amount`, with an oscillator into it. */
export const circularBus = (count: number, amount = 0.25): Plain =>
  patch(
    [osc, out, ...busPair('a')],
    [
      { from: 'osc.saw', to: 'ai.in', amount: 0.1 },
      { from: 'ao.out', to: 'out.in' },
      ...range(count).map(() => ({ from: 'ao.out', to: 'ai.in', amount })),
    ],
  )

/** A ring of buses, each into the next by two cables. */
export const ringOfBuses = (count: number): Plain =>
  patch(
    [osc, out, ...range(count).flatMap((n) => busPair(`b${n}`))],
    [
      { from: 'osc.saw', to: 'b0i.in', amount: 0.1 },
      { from: 'b0o.out', to: 'out.in' },
      ...range(count).flatMap((n) => doubled(`b${n}o.out`, `b${(n + 1) % count}i.in`, 0.01)),
    ],
  )

/** Buses in a row, each into the next by two cables. */
export const rowOfBuses = (count: number): Plain =>
  patch(
    [osc, out, ...range(count).flatMap((n) => busPair(`b${n}`))],
    [
      { from: 'osc.saw', to: 'b0i.in', amount: 2 ** -count },
      { from: `b${count - 1}o.out`, to: 'out.in' },
      ...range(count - 1).flatMap((n) => doubled(`b${n}o.out`, `b${n + 1}i.in`)),
    ],
  )

/** A group whose inside is a wire, feeding itself. */
export const circularGroup = (): Plain =>
  patch(
    [
      osc,
      out,
      {
        id: 'g',
        type: 'group',
        inside: {
          modules: [
            { id: 'pi', type: 'portin', params: { name: 'in' } },
            { id: 'po', type: 'portout', params: { name: 'out' } },
          ],
          cables: [{ from: 'pi.out', to: 'po.in', amount: 0.5 }],
        },
      },
    ],
    [
      { from: 'osc.saw', to: 'g.in', amount: 0.1 },
      { from: 'g.out', to: 'out.in' },
      { from: 'g.out', to: 'g.in' },
      { from: 'g.out', to: 'g.in' },
    ],
  )

/** Bypassed filters in a ring. */
export const bypassedRing = (count: number): Plain =>
  patch(
    [osc, out, ...range(count).map((n) => ({ id: `f${n}`, type: 'filter', bypass: true }))],
    [
      { from: 'osc.saw', to: 'f0.in', amount: 0.1 },
      { from: 'f0.low', to: 'out.in' },
      ...range(count).flatMap((n) => doubled(`f${n}.low`, `f${(n + 1) % count}.in`, 0.4)),
    ],
  )

/** Values in layers of two whose fields each name both of the layer below; `circular` joins the ends. */
export const layeredFormulas = (layers: number, circular = false): Plain =>
  patch(
    [
      out,
      ...range(layers).flatMap((layer) =>
        ['a', 'b'].map((side) => ({
          id: `${side}${layer}`,
          type: 'value',
          params: {
            value:
              layer > 0
                ? `= (a${layer - 1}.value + b${layer - 1}.value) / 2`
                : circular
                  ? `= a${layers - 1}.value`
                  : 0.5,
          },
        })),
      ),
    ],
    [{ from: `a${layers - 1}.out`, to: 'out.in' }],
  )

/** Values each of which names the one before (or, `reversed`, the one behind) it. */
export const chainedFormulas = (count: number, reversed = false): Plain => {
  const modules = range(count).map((n) => ({
    id: `v${n}`,
    type: 'value',
    params: { value: n === 0 ? 0.5 : `= v${n - 1}.value` },
  }))
  return patch(
    [out, ...(reversed ? modules.reverse() : modules)],
    [{ from: `v${count - 1}.out`, to: 'out.in' }],
  )
}

const macro = (id: string, targets: readonly string[]): Plain => ({
  id,
  name: id,
  value: 0.5,
  targets: targets.map((param) => ({ param, from: 0, to: 1 })),
})

/** Macros that each move the next one by two targets; the last moves a level. */
export const layeredMacros = (count: number): Plain =>
  patch([osc, out], [{ from: 'osc.saw', to: 'out.in' }], {
    macros: range(count).map((n) =>
      macro(`m${n}`, n === count - 1 ? ['osc.level'] : [`macro:m${n + 1}`, `macro:m${n + 1}`]),
    ),
  })

/** Macros that move each other in a ring. */
export const ringOfMacros = (count: number): Plain =>
  patch([osc, out], [{ from: 'osc.saw', to: 'out.in' }], {
    macros: range(count).map((n) => macro(`m${n}`, [`macro:m${(n + 1) % count}`])),
  })

/** `modules` mixers in a row and cables at random among them, most of them forwards; `back` in a thousand go back. */
export const large = (modules: number, cables: number, back = 0): Plain => {
  const dice = new Dice(1)
  const rows = range(cables).map((n) => {
    const a = dice.below(modules - 1),
      b = a + 1 + dice.below(Math.min(40, modules - 1 - a))
    const [from, to] = dice.below(1000) < back ? [b, a] : [a, b]
    return { id: `c${n}`, from: `m${from}.out`, to: `m${to}.in${1 + dice.below(4)}`, amount: 0.1 }
  })
  return patch(
    [
      osc,
      out,
      ...range(modules - 2).map((n) => ({ id: `m${n}`, type: 'mix' })),
      { id: `m${modules - 2}`, type: 'mix' },
    ].slice(0, modules),
    [
      { id: 'first', from: 'osc.saw', to: 'm0.in1' },
      { id: 'last', from: `m${modules - 3}.out`, to: 'out.in' },
      ...rows.filter(({ from, to }) =>
        [from, to].every((end) => Number(end.slice(1).split('.')[0]) < modules - 2),
      ),
    ].slice(0, cables),
  )
}

/** The same with a macro on every cable. */
export const macroOnAll = (modules: number, cables: number): Plain => {
  const made = large(modules, cables)
  return {
    ...made,
    macros: [
      macro(
        'all',
        (made['cables'] as { id: string }[]).map(({ id }) => `cable:${id}`),
      ),
    ],
  }
}

/** Lists in lists, where a module's data is expected. */
export const deepData = (depth: number): string =>
  `{"format":"ypsilon/patch","version":1,"modules":[{"id":"s","type":"steps","data":{"a":${'['.repeat(depth)}${']'.repeat(depth)}}}],"cables":[]}`

/** Amplifiers in a row that nothing closes, with somebody who plays notes. */
export const openAmplifiers = (count: number): Plain =>
  patch(
    [{ id: 'n', type: 'notes' }, osc, out, ...range(count).map((n) => ({ id: `a${n}`, type: 'amplifier' }))],
    [
      { from: 'osc.saw', to: 'a0.in', amount: 0.1 },
      ...range(count - 1).map((n) => ({ from: `a${n}.out`, to: `a${n + 1}.in` })),
      { from: `a${count - 1}.out`, to: 'out.in' },
    ],
  )

/** Random sources, each into the next mixer of a row that carries 16 voices. */
export const randomSources = (count: number): Plain =>
  patch(
    [
      { id: 'n', type: 'notes', params: { voices: 16 } },
      out,
      ...range(count).flatMap((n) => [
        { id: `z${n}`, type: 'noise' },
        { id: `x${n}`, type: 'mix' },
      ]),
    ],
    [
      { from: 'n.gate', to: 'x0.in3', amount: 0.01 },
      ...range(count).map((n) => ({ from: `z${n}.white`, to: `x${n}.in1`, amount: 0.001 })),
      ...range(count - 1).map((n) => ({ from: `x${n}.out`, to: `x${n + 1}.in2` })),
      { from: `x${count - 1}.out`, to: 'out.in' },
    ],
  )

/** One loop of delays, each into several that follow. */
export const ringOfDelays = (count: number): Plain =>
  patch(
    [out, ...range(count).map((n) => ({ id: `d${n}`, type: 'delayline', params: { max: 0.01, time: 5 } }))],
    [
      { from: 'd0.out', to: 'out.in' },
      ...range(count).flatMap((n) =>
        [1, 3, 7, 11].map((way) => ({ from: `d${n}.out`, to: `d${(n + way) % count}.in`, amount: 0.1 })),
      ),
    ],
  )

/** Pairs of mixers that feed each other. */
export const manyLoops = (count: number): Plain =>
  patch(
    [
      out,
      ...range(count).flatMap((n) => [
        { id: `p${n}`, type: 'mix' },
        { id: `q${n}`, type: 'mix' },
      ]),
    ],
    range(count).flatMap((n) => [
      { from: `p${n}.out`, to: `q${n}.in1`, amount: 0.5 },
      { from: `q${n}.out`, to: `p${n}.in1`, amount: 0.5 },
      { from: `q${n}.out`, to: 'out.in', amount: 0.01 },
    ]),
  )
