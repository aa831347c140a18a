/** Starting points: four at least for every finished effect, valid, each its own, none louder than what comes in. */
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../catalogue.ts'
import { kindOf } from '../describe/kinds/index.ts'
import type { ParamValue } from '../patch/types.ts'
import { pink, RATE, through } from '../testing/effects.ts'
import { db, rms } from '../testing/measure.ts'

interface Preset {
  readonly name: string
  readonly params: Readonly<Record<string, ParamValue>>
}
const PRESETS = new Map(
  Object.entries(
    JSON.parse(readFileSync(new URL('../generated/presets.json', import.meta.url), 'utf8')) as Record<
      string,
      readonly Preset[]
    >,
  ),
)
const EFFECTS = [...CATALOGUE.entries()]
  .filter(([, { description }]) => description.shape?.sumsVoices === 'unless apart')
  .map(([type]) => type)

it.each([...EFFECTS, 'outboard'])('%s has four at least', (type) => {
  const names = (PRESETS.get(type) ?? []).map(({ name }) => name)
  expect(names.length).toBeGreaterThanOrEqual(4)
  expect(new Set(names).size).toBe(names.length)
})

describe.each([...PRESETS])('%s', (type, presets) => {
  const { params: known, description } = CATALOGUE.get(type)!

  it('takes every value', () => {
    for (const { name, params } of presets)
      for (const [param, value] of Object.entries(params)) {
        expect(known.has(param), `${name}: ${param}`).toBe(true)
        expect(kindOf(known.get(param)!).fault(known.get(param)!, value), `${name}: ${param}`).toBeUndefined()
      }
    const texts = presets.map(({ params }) => JSON.stringify(params))
    expect(new Set(texts).size).toBe(texts.length)
  })

  it('is about as loud as what comes in', () => {
    const sound = pink(1.5),
      dry = rms(sound, RATE / 2)
    for (const { name, params } of presets) {
      if (params['device'] === 'reed-strings') continue
      const [left, right] = through(
        type,
        { ...(known.has('mix') ? { mix: 0.5 } : {}), ...params },
        [sound, pink(1.5, 9)],
        [description.outputs[0]!.name],
      )()
      const level = db(Math.hypot(rms(left!, RATE / 2), rms(right!, RATE / 2)) / Math.SQRT2 / dry)
      expect(Math.abs(level), name).toBeLessThan(5)
    }
  })
})
