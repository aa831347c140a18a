import { expect, it } from 'vitest'
import { hear, patchOf } from '../testing/bench.ts'
import { evaluated } from './evaluate.ts'
import { parseFormula } from './parse.ts'
import { FUNCTIONS } from './language.ts'

const INPUTS = { a: 0.3, b: -1.7, p1: 2.5, p2: 0 } as const

/** What the engine makes of a formula whose inputs stand still. */
const heard = (text: string): number => {
  const patch = patchOf(
    [
      ['va', 'value', { value: INPUTS.a }],
      ['vb', 'value', { value: INPUTS.b, low: -4, high: 4 }],
      ['f', 'formula', { p1: INPUTS.p1, p2: INPUTS.p2 }],
      ['o', 'output'],
    ],
    ['va.out > f.a', 'vb.out > f.b', 'f.x > o.in'],
  )
  const modules = patch.modules.map((module) => (module.id === 'f' ? { ...module, data: { text } } : module))
  return hear({ ...patch, modules }, 0.05, { taps: ['f.x'] })
    .tap('f.x')
    .at(-1)!
}
const shown = (text: string): number =>
  evaluated(parseFormula(text, 'module'), (name) => (INPUTS as Readonly<Record<string, number>>)[name]).get(
    'x',
  )!

const calls = FUNCTIONS.filter(({ name }) => name !== 'noise').map(({ name, arguments: count }) => {
  const values = ['a', 'p1', '0.8'].slice(0, count)
  return `x = ${name}(${values.join(', ')})`
})

it.each([
  ...calls,
  'x = sqrt(b) + log(p2) + 1 / p2',
  'x = a ^ 2 - -b * 3 % 2',
  'x = b % 2 + mod(a, -2)',
  'x = a > b and not (p1 == 2.5) ? 1 : 7',
  'x = a != b or p2 ? a <= b : b >= p1',
  'x = round(-2.5) + round(2.5) + step(a, a) + smooth(1, 1, 1)',
  'w = a * 2; v = w - b; x = v / w + tau - pi',
  'x = min(a, b) + max(a, b) * clamp(5, -1, p1) + mix(a, b, p1)',
])('%s is shown as it is heard', (text) => {
  expect(parseFormula(text, 'module').errors).toEqual([])
  const wanted = heard(text)
  expect(Math.abs(shown(text) - wanted)).toBeLessThanOrEqual(2e-5 * Math.max(1, Math.abs(wanted)))
})

it('holds every name, what was before, and what is named elsewhere', () => {
  const parsed = parseFormula('k = prev(k) + a; x = k * 2', 'module')
  expect(evaluated(parsed, () => 3, new Map([['k', 4]]))).toEqual(
    new Map([
      ['k', 7],
      ['x', 14],
    ]),
  )
  const field = parseFormula('261 + notes.velocity * 1000', 'field')
  expect(evaluated(field, (name) => (name === 'notes.velocity' ? 0.5 : undefined)).get('x')).toBe(761)
})
