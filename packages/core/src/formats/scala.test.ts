import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { checkPatch } from '../patch/validate.ts'
import { hear, patchOf } from '../testing/bench.ts'
import { frequencyOf, centsBetween } from '../testing/measure.ts'
import { parseKeys, parseScale, tuningOf } from './scala.ts'

const JUST = `! just.scl
A just major scale
 7
!
 9/8
 5/4
 4/3
 3/2
 5/3
 15/8 seventh
 2/1
`
const TWELVE = `Twelve\n12\n${Array.from({ length: 12 }, (_, i) => `${(i + 1) * 100}.`).join('\n')}`
const KEYS = `! white keys only\n12\n0\n127\n60\n69\n440.0\n7\n0\nx\n1\nx\n2\n3\nx\n4\nx\n5\nx\n6`

describe('tunings', () => {
  it('reads scales and maps', () => {
    const scale = parseScale(JUST),
      keys = parseKeys(KEYS)
    if (!scale.ok || !keys.ok) throw new Error('not read')
    const tuning = tuningOf(scale.value, keys.value)
    expect(tuning[69]).toBeCloseTo(Math.log2(440 / 261.6256), 10)
    expect(2 ** (tuning[67]! - tuning[60]!)).toBeCloseTo(1.5, 10)
    expect(2 ** (tuning[72]! - tuning[60]!)).toBeCloseTo(2, 10)
    expect(tuning[61]).toBeNaN()
  })
  it('twelve equal steps are what there is without a file', () => {
    const scale = parseScale(TWELVE)
    if (!scale.ok) throw new Error('not read')
    tuningOf(scale.value).forEach((pitch, note) => expect(pitch).toBeCloseTo((note - 60) / 12, 10))
  })
  it('says what is wrong and where', () => {
    const fault = (result: ReturnType<typeof parseScale> | ReturnType<typeof parseKeys>): string =>
      result.ok ? '' : `${result.fault.place}: ${result.fault.message}`
    expect(fault(parseScale('x\n2\n9/8\nabc'))).toBe(
      'line 4: "abc" is no pitch: expected cents with a point (701.955) or a ratio (3/2)',
    )
    expect(fault(parseScale('x\n3\n9/8'))).toBe('line 2: 3 notes are announced, 1 follow')
    expect(fault(parseScale(''))).toContain('is no scale')
    expect(fault(parseKeys('12\n0\n127\n60\nq'))).toBe('line 5: expected the reference key, found "q"')
  })
  it('never throws, whatever comes', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string({ maxLength: 300 }),
          fc
            .array(
              fc.constantFrom(
                '!',
                '12',
                '9/8',
                '0/0',
                '1/0',
                '701.9',
                '-3',
                'x',
                '',
                '1e9',
                '9'.repeat(400),
                '.',
              ),
              { maxLength: 20 },
            )
            .map((list) => list.join('\n')),
        ),
        (text) => {
          const scale = parseScale(text),
            keys = parseKeys(text)
          if (scale.ok) tuningOf(scale.value, keys.ok ? keys.value : undefined)
        },
      ),
      { numRuns: 800 },
    )
  })
  it('tunes what is played', () => {
    const patch = (tuning: string): unknown => ({
      ...patchOf(
        [
          ['n', 'notes'],
          ['o', 'oscillator'],
          ['out', 'output'],
        ],
        ['n.pitch > o.pitch', 'o.sine > out.in'],
      ),
      tuning,
      assets: { just: { kind: 'tuning', scale: JUST, keys: KEYS }, broken: { kind: 'tuning', scale: 'x' } },
    })
    const result = checkPatch(patch('just'))
    if (!result.ok) throw new Error('not valid')
    const out = hear(result.value, 2, { play: '67@0+2', taps: ['o.sine'] }).tap('o.sine'),
      expected = (440 * 9) / 10
    expect(Math.abs(centsBetween(frequencyOf(out, expected), expected))).toBeLessThan(0.05)
    const faults = (tuning: string): string => {
      const checked = checkPatch(patch(tuning))
      return checked.ok ? '' : checked.faults.map((item) => `${item.place}: ${item.message}`).join()
    }
    expect(faults('nothing')).toBe(
      'tuning: there is no tuning "nothing"; use "equal" or the id of an asset of kind "tuning"',
    )
    expect(faults('broken')).toContain('assets.broken.scale')
  })
})
