/* eslint max-lines: ["error", 500] -- one language */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { checkPatch } from '../patch/validate.ts'
import { hear, patchOf } from '../testing/bench.ts'
import { FUNCTIONS } from './language.ts'
import { errorText, parseFormula } from './parse.ts'
import { programOf } from './program.ts'

const errorsOf = (text: string, use: 'module' | 'field' = 'module'): string[] =>
  parseFormula(text, use).errors.map(errorText)

/** What a formula gives for constant inputs. */
const value = (text: string, a = 0, b = 0, output: 'x' | 'y' = 'x'): number =>
  hear(
    patchOf(
      [
        ['va', 'value', { value: a }],
        ['vb', 'value', { value: b }],
        ['f', 'formula', {}, { data: { text } }],
      ],
      ['va.out > f.a', 'vb.out > f.b'],
    ),
    0.01,
    { taps: [`f.${output}`] },
  )
    .tap(`f.${output}`)
    .at(-1)!

describe('formulas: reading', () => {
  it('reads statements, names and references, and colours every word', () => {
    const parsed = parseFormula('ph = fract(prev(ph) + 0.5); x = 2 * ph - 1', 'module')
    expect(parsed.errors).toEqual([])
    expect(parsed.names).toEqual(['ph', 'x'])
    expect(parsed.tokens.map(({ kind, text }) => `${kind} ${text}`).slice(0, 6)).toEqual([
      'name ph',
      'operator =',
      'function fract',
      'bracket (',
      'function prev',
      'bracket (',
    ])
    expect(
      parseFormula('261 + notes.velocity * macro:bright', 'field').references.map((item) => item.target),
    ).toEqual(['notes.velocity', 'macro:bright'])
  })
  it('says the column and what was expected', () => {
    expect(errorsOf('x = a +')).toEqual([
      'column 8: found the end; expected a number, a name, a function or (',
    ])
    expect(errorsOf('x = (a + b')).toEqual(['column 11: expected ) for the ( in column 5'])
    expect(errorsOf('x = a b')).toEqual(['column 7: found "b"; expected an operator, ; or the end'])
    expect(errorsOf('x = a $ b')).toEqual(['column 7: found "$", which the language does not have'])
    expect(errorsOf('x = q + 1')[0]).toMatch(/^column 5: there is no "q" here; expected a, b/)
    expect(errorsOf('x = sin(a, b)')).toEqual(['column 5: sin takes one value, found 2'])
    expect(errorsOf('x = wobble(a)')[0]).toMatch(
      /^column 11: "wobble" is no function|^column 5: there is no function "wobble"/,
    )
    expect(errorsOf('a = 3')).toEqual(['column 1: "a" has a meaning of its own and cannot be assigned'])
    expect(errorsOf('x = prev(z)')[0]).toContain('column 10: "z" is not assigned anywhere')
    expect(errorsOf('x = y; y = a')[0]).toContain('column 5: "y" has no value yet here; use prev(y)')
    expect(errorsOf('')).toEqual(['column 1: is empty; write for example x = a * b'])
    expect(errorsOf('x = a ? b')[0]).toMatch(/^column \d+: /)
    expect(errorsOf('x = 1 = 2')[0]).toContain('column 7: found =')
    expect(errorsOf('x = osc.saw')[0]).toContain('a formula module hears only its own inputs')
    expect(errorsOf('x'.repeat(5000))[0]).toContain('longer than 4096')
    expect(errorsOf('('.repeat(200) + 'a' + ')'.repeat(200))[0]).toContain('nested deeper')
  })
  it('never throws and never lets a bad text through, whatever comes', () => {
    const pieces = fc
      .array(
        fc.constantFrom(
          'x',
          '=',
          'a',
          '+',
          '-',
          '*',
          '^',
          '(',
          ')',
          ',',
          ';',
          '1',
          '0.5',
          'sin',
          'prev',
          'not',
          'and',
          '?',
          ':',
          ' ',
          'osc.saw',
          'macro:m',
          '[',
          '"',
          "'",
          '\\',
          '{',
          '}',
          '`',
          '=>',
          '!',
          'this',
          'true',
          '__proto__',
          'constructor',
        ),
        { maxLength: 40 },
      )
      .map((list) => list.join(''))
    fc.assert(
      fc.property(fc.oneof(pieces, fc.string({ maxLength: 200 })), (text) => {
        for (const use of ['module', 'field'] as const) {
          const parsed = parseFormula(text, use)
          for (const error of parsed.errors) {
            expect(error.start).toBeGreaterThanOrEqual(0)
            expect(error.start).toBeLessThanOrEqual(text.length)
          }
          if (parsed.errors.length === 0)
            programOf(
              parsed,
              new Map(
                [
                  ...['a', 'b', 'c', 'd', 'p1', 'p2', 'p3', 'p4'],
                  ...parsed.references.map((item) => item.target),
                ].map((name, index) => [name, 64 + 4 * index]),
              ),
            )
        }
      }),
      { numRuns: 1500 },
    )
  })
})

describe('formulas: computing', () => {
  it.each<[string, number, number, number]>([
    ['x = a + b * 2', 3, 4, 11],
    ['x = (a + b) * 2', 3, 4, 14],
    ['x = -a ^ 2', 3, 0, -9],
    ['x = (-a) ^ 2', 3, 0, 9],
    ['x = 2 ^ 3 ^ 2', 0, 0, 512],
    ['x = a - b - 1', 5, 2, 2],
    ['x = a > b and not b > a', 3, 2, 1],
    ['x = not a + 1 > 5', 3, 0, 1],
    ['x = a == 3 ? 7 : 9', 3, 0, 7],
    ['x = a != 3 or b >= 2', 3, 1, 0],
    ['x = a ? b ? 1 : 2 : 3', 1, 0, 2],
    ['x = 1 / 0', 0, 0, 0],
    ['x = a % b', -1, 3, 2],
    ['x = mod(a, b)', 5.5, 2, 1.5],
    ['x = a % 0', 5, 0, 0],
    ['x = sqrt(-1)', 0, 0, 0],
    ['x = log(0)', 0, 0, 0],
    ['x = a ^ 0.3', -2, 0, 0],
    ['x = a ^ 3', -2, 0, -8],
    ['x = 0 ^ 0', 0, 0, 1],
    ['x = exp(1000)', 0, 0, 0],
    ['x = sin(pi / 6)', 0, 0, 0.5],
    ['x = cos(tau)', 0, 0, 1],
    ['x = tan(pi / 4)', 0, 0, 1],
    ['x = atan(a)', 1, 0, Math.PI / 4],
    ['x = atan(a)', -20, 0, Math.atan(-20)],
    ['x = exp(a)', 2, 0, Math.exp(2)],
    ['x = log(a)', 5, 0, Math.log(5)],
    ['x = log2(a)', 8, 0, 3],
    ['x = sqrt(a)', 2, 0, Math.SQRT2],
    ['x = abs(a) + sign(a)', -4, 0, 3],
    ['x = floor(a) + ceil(a) * 10 + round(a) * 100', 1.5, 0, 221],
    ['x = fract(a)', -0.25, 0, 0.75],
    ['x = min(a, b) - max(a, b)', 2, 7, -5],
    ['x = clamp(a, -1, 1)', 4, 0, 1],
    ['x = mix(a, b, 0.25)', 0, 8, 2],
    ['x = step(a, b)', 2, 2, 1],
    ['x = smooth(0, 1, a)', 0.25, 0, 0.15625],
    ['x = tanh(a)', 0.5, 0, Math.tanh(0.5)],
    ['x = hz(a)', 0.75, 0, 440],
    ['x = pitch(a)', 440, 0, 0.75],
    ['x = db(a)', 0.5, 0, -6.0206],
    ['x = note(a)', 67, 0, 7 / 12],
    ['x = sr', 0, 0, 48000],
    ['x = voice', 0, 0, 0],
    ['k = a * 2; x = k + b', 3, 1, 7],
    ['a + b', 1, 2, 3],
  ])('%s', (text, a, b, expected) => {
    expect(Math.abs(value(text, a, b) - expected)).toBeLessThan(2e-6 * Math.max(1, Math.abs(expected)))
  })

  it('knows its last sample: an oscillator and a filter of one pole', () => {
    const heard = hear(
      patchOf(
        [
          [
            'f',
            'formula',
            { p1: 1 },
            {
              data: {
                text: 'ph = fract(prev(ph) + 1000 / sr); x = sin(tau * ph); y = prev(y) + 0.1 * (p1 - prev(y))',
              },
            },
          ],
        ],
        [],
      ),
      0.1,
      { taps: ['f.x', 'f.y'] },
    )
    const x = heard.tap('f.x'),
      y = heard.tap('f.y')
    for (let n = 0; n < 2000; n += 1) {
      expect(Math.abs(x[n]! - Math.sin((2 * Math.PI * (n + 1)) / 48))).toBeLessThan(1e-3)
      expect(Math.abs(y[n]! - (1 - 0.9 ** (n + 1)))).toBeLessThan(1e-5)
    }
  })
  it('counts time, and noise differs at each mention', () => {
    const heard = hear(
      patchOf([['f', 'formula', {}, { data: { text: 'x = t; y = noise - noise()' } }]], []),
      0.5,
      { taps: ['f.x', 'f.y'] },
    )
    expect(heard.tap('f.x')[24000 - 1]).toBeCloseTo(23999 / 48000, 6)
    const y = heard.tap('f.y')
    expect(Math.sqrt(y.reduce((sum, v) => sum + v * v, 0) / y.length)).toBeCloseTo(Math.sqrt(2 / 3), 1)
  })
  it('runs per voice', () => {
    const heard = hear(
      patchOf(
        [
          ['n', 'notes', { voices: 3, mode: 'poly' }],
          ['f', 'formula', {}, { data: { text: 'x = voice + 0 * a' } }],
        ],
        ['n.pitch > f.a'],
      ),
      0.01,
      { taps: ['f.x'] },
    )
    expect(heard.lanes('f.x').map((lane) => lane.at(-1))).toEqual([0, 1, 2])
  })
  it('offers every function it lists', () => {
    for (const word of FUNCTIONS)
      expect(
        Number.isFinite(
          value(`x = ${word.name}(${Array.from({ length: word.arguments }, () => '0.5').join(', ')})`),
        ),
      ).toBe(true)
  })
})

describe('formulas in fields', () => {
  it('take ports, parameters and macros, in the unit of the field', () => {
    const patch = patchOf(
      [
        ['n', 'notes', { voices: 2, mode: 'poly' }],
        ['e', 'envelope', { decay: 0.4 }],
        ['f', 'filter', { cutoff: '= 261 + n.velocity * 1000' }],
        ['d', 'envelope', { decay: '= 0.5 * e.decay' }],
        ['v', 'value', { value: '= macro:bright * 10' }],
        ['s', 'oscillator', { fine: '= 3 + v.value' }],
        ['m', 'map', { inHigh: '= f.cutoff' }],
      ],
      ['n.gate > e.gate'],
      { macros: [{ id: 'bright', name: 'Brightness', value: 0.25, targets: [] }] },
    )
    const heard = hear(patch, 0.05, {
      play: '60@0+1:0.5',
      taps: ['v.out'],
      events: [{ t: 0.02, type: 'macro', target: 'bright', value: 0.5 }],
    })
    expect(heard.tap('v.out')[100]).toBe(2.5)
    expect(heard.tap('v.out')[2000]).toBe(5)
  })
  it('set the cutoff they compute', () => {
    const level = (velocity: number): number => {
      const out = hear(
        patchOf(
          [
            ['n', 'notes'],
            ['f', 'filter', { cutoff: '= 100 + n.velocity * 9900', resonance: 0 }],
            ['w', 'noise'],
          ],
          ['w.white > f.in'],
        ),
        0.5,
        { play: `60@0+1:${velocity}`, taps: ['f.low'] },
      ).tap('f.low')
      return Math.sqrt(out.subarray(2000).reduce((sum, x) => sum + x * x, 0) / 22000)
    }
    const fixed = (cutoff: number): number => {
      const out = hear(
        patchOf(
          [
            ['f', 'filter', { cutoff, resonance: 0 }],
            ['w', 'noise'],
          ],
          ['w.white > f.in'],
        ),
        0.5,
        { taps: ['f.low'] },
      ).tap('f.low')
      return Math.sqrt(out.subarray(2000).reduce((sum, x) => sum + x * x, 0) / 22000)
    }
    expect(level(1)).toBeCloseTo(fixed(10000), 4)
    expect(level(0.01)).toBeCloseTo(fixed(199), 4)
  })
  it('still take cables, in octaves around what they compute', () => {
    const out = hear(
      patchOf(
        [
          ['v', 'value', { value: 1 }],
          ['p', 'phasor', { frequency: '= 100 * 2', tracking: false }],
        ],
        ['v.out > p.frequency'],
      ),
      0.1,
      { taps: ['p.out'] },
    ).tap('p.out')
    expect(out[30]!).toBeCloseTo(0.25, 5)
  })
  it('name circles and what does not exist', () => {
    const faults = (value: unknown): string[] => {
      const result = checkPatch(value)
      return result.ok ? [] : result.faults.map((fault) => `${fault.place}: ${fault.message}`)
    }
    const modules = (fine: string, cutoff: unknown = 500) => ({
      format: 'ypsilon/patch',
      version: 1,
      modules: [
        { id: 'o', type: 'oscillator', params: { fine } },
        { id: 'f', type: 'filter', params: { cutoff } },
      ],
    })
    expect(faults(modules('= f.cutoff / 10', '= o.fine * 2'))[0]).toBe(
      'modules[0].params.fine: the formula goes round in a circle: o.fine → f.cutoff → o.fine',
    )
    expect(faults(modules('= q.x'))).toEqual(['modules[0].params.fine: column 3: there is no module "q"'])
    expect(faults(modules('= f.nothing'))[0]).toContain('filter has no output or parameter "nothing"')
    expect(faults(modules('= 3 +'))).toEqual([
      'modules[0].params.fine: the formula cannot be read: column 6: found the end; expected a number, a name, a function or (',
    ])
    expect(faults(modules('= macro:m'))[0]).toContain('there is no macro "m"')
  })
})

describe('comments, lines and the past of inputs', () => {
  const run = (text: string, a: number[] = []): Float32Array => {
    const x = Float32Array.from({ length: 480 }, (_, i) => a[i] ?? 0)
    return hear(
      patchOf(
        [
          ['i', 'input'],
          ['f', 'formula', { p1: 3 }, { data: { text } }],
        ],
        ['i.out > f.a'],
      ),
      0.01,
      { input: { rate: 48000, channels: [x, x] }, taps: ['f.x'] },
    ).lanes('f.x')[0]!
  }

  it('skips comments and ends a statement at the end of its line', () => {
    const text = `// a slow saw
k = p1 * 2 // six
x = k
  + 1 // goes on: a line cannot begin with an operator
y = (k
  - 1)`
    expect(parseFormula(text, 'module').errors).toEqual([])
    expect(run(text)[10]).toBe(7)
    expect(parseFormula('= 2 // twice', 'field').errors.length).toBeGreaterThan(0)
    expect(parseFormula(' 2 * 3 // six', 'field').errors).toEqual([])
    expect(parseFormula(text, 'module').tokens.filter((token) => token.kind === 'comment').length).toBe(3)
  })

  it('still takes several statements in a line, and says where a line breaks off', () => {
    expect(run('k = 2; x = k * 3')[0]).toBe(6)
    expect(errorsOf('k = 2\nx = k k')[0]).toContain('column 13: found "k"')
    expect(errorsOf('k = 2\nx = k *')[0]).toContain('found the end')
  })

  it('knows the last sample of an input', () => {
    const out = run('x = a - prev(a)', [0, 1, 3, 6, 10])
    expect([...out.slice(0, 6)]).toEqual([0, 1, 2, 3, 4, -10])
    // What is prev( ) now is never this sample, whatever comes first.
    expect([...run('y = prev(a); x = prev(a) + y + prev(p1) * 0', [1, 2, 3]).slice(0, 4)]).toEqual([
      0, 2, 4, 6,
    ])
  })

  it('says what to do where it refuses', () => {
    expect(errorsOf('# comment\nx = a')[0]).toContain('a comment begins with //')
    expect(errorsOf('x = prev(a * 2)')[0]).toContain('give what is meant a name')
    expect(errorsOf('x = prev(t)')[0]).toContain('or of an input')
  })
})
