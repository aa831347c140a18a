/** What a module shows of itself where a card has no rows: values and a picture. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { PUBLIC_MODULES } from '../catalogue.ts'
import type { ModuleDescription, ParamDescription, Picture } from '../describe/types.ts'
import { pictureOf } from '../patch/picture.ts'

const pictureAt = (
  module: ModuleDescription,
  params: Record<string, number | string | boolean> = {},
  output: (name: string) => { value: number; before: number } | undefined = () => undefined,
): Picture | undefined =>
  pictureOf({ id: 'm', type: module.type, params }, { param: () => undefined, output })

/** Every point is a place in the picture, or so near that a line's width hides it. */
const expectWithin = (picture: Picture, where: string): void => {
  for (const { points } of picture.curves) {
    expect(points.length, where).toBeGreaterThan(0)
    for (const [x, y] of points)
      if (!(x > -0.01 && x < 1.01 && y > -0.01 && y < 1.01)) expect.fail(`${where}: ${x}, ${y}`)
  }
  for (const [x, y] of picture.dots ?? [])
    if (!(x >= 0 && x <= 1 && Number.isFinite(y))) expect.fail(`${where}: dot at ${x}, ${y}`)
}

/** Settings of a parameter, its ends among them. */
const valuesOf = (param: ParamDescription): fc.Arbitrary<number | string | boolean> => {
  if (param.kind === 'number')
    return fc.constantFrom(param.min, param.default, param.max, (param.min + param.max) / 2)
  if (param.kind === 'choice') return fc.constantFrom(...param.choices)
  return fc.constant(param.default)
}

describe('every module', () => {
  it.each(PUBLIC_MODULES.map((module) => [module.type, module] as const))(
    '%s names its headline values and its picture, which stays within its frame at any setting',
    (type, module) => {
      expect(module.headline.length).toBeLessThanOrEqual(2)
      for (const name of module.headline)
        expect(
          module.params.some((param) => param.name === name),
          `${type}.${name}`,
        ).toBe(true)
      // What is turned most is what is told from afar.
      if (module.params.some(({ kind }) => kind === 'number'))
        expect(module.headline.length).toBeGreaterThan(0)
      const picture = pictureAt(module)
      expect(picture === undefined).toBe(module.picture === 'signal')
      if (!picture) return
      expectWithin(picture, type)
      const settings = fc.record(
        Object.fromEntries(module.params.map((param) => [param.name, valuesOf(param)])),
      )
      fc.assert(
        fc.property(settings, fc.double({ min: -2, max: 2, noNaN: true }), (params, value) => {
          expectWithin(
            pictureAt(module, params, () => ({ value, before: 0 }))!,
            JSON.stringify(params),
          )
        }),
        { numRuns: 60 },
      )
    },
  )
})

describe('the dot of an envelope', () => {
  const envelope = PUBLIC_MODULES.find(({ type }) => type === 'envelope')!
  const settings = { attack: 0.1, decay: 0.3, sustain: 0.5, release: 0.4, hold: 0.05 }
  const dot = (value: number, before: number) => pictureAt(envelope, settings, () => ({ value, before }))!
  const yAt = ({ curves }: Picture, x: number): number => {
    const points = curves[0]!.points
    const next = points.findIndex(([a]) => a >= x - 1e-9)
    return points[Math.max(0, next)]![1]
  }

  it('lies on the curve, in the order of the stages', () => {
    const told: [number, number][] = [
      [0.4, 0.1],
      [1, 1],
      [0.8, 0.9],
      [0.5, 0.5],
      [0.2, 0.3],
    ]
    const places = told.map(([value, before]) => {
      const picture = dot(value, before)
      const [x, y] = picture.dots![0]!
      expect(y).toBeCloseTo(value)
      expect(yAt(picture, x)).toBeCloseTo(value, 0)
      return x
    })
    expect(places).toEqual([...places].sort((a, b) => a - b))
    expect(new Set(places).size).toBe(places.length)
  })

  it('is not there while nothing sounds', () => {
    expect(dot(0, 0).dots).toBeUndefined()
  })
})
