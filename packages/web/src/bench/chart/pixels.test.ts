import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Pixels, Profile, rgbOf } from './pixels.ts'

const INK = rgbOf('#1d3e66')
/** Opacity all pixels have together, as covered pixels. */
const covered = (pixels: Pixels): number => {
  let sum = 0
  for (let i = 3; i < pixels.bytes.length; i += 4) sum += pixels.bytes[i]! / 255
  return sum
}
const profileOf = (points: readonly (readonly [number, number])[]): Profile => {
  const profile = new Profile()
  for (const [x, y] of points) profile.add(x, y)
  return profile
}
const within = (max: number) => fc.double({ min: -8, max: max + 8, noNaN: true })

describe('pixels', () => {
  it('have the colour that was written', () => {
    expect(rgbOf('#1d3e66')).toBe(0x663e1d)
    expect(rgbOf('rgb(1, 2, 3)')).toBe(0)
    const pixels = new Pixels(4, 4)
    pixels.rect(1, 1, 3, 3, INK)
    expect(pixels.at(1, 1)).toEqual([0x1d, 0x3e, 0x66, 255])
    expect(pixels.at(0, 0)).toEqual([0, 0, 0, 0])
  })

  it('are covered by a rectangle as far as it reaches over them', () => {
    fc.assert(
      fc.property(within(32), within(24), within(32), within(24), (a, b, c, d) => {
        const pixels = new Pixels(32, 24)
        const [left, right] = [Math.min(a, c), Math.max(a, c)],
          [top, bottom] = [Math.min(b, d), Math.max(b, d)]
        pixels.rect(left, top, right, bottom, INK)
        const inside = (from: number, to: number, most: number): number =>
          Math.max(0, Math.min(most, to) - Math.max(0, from))
        const area = inside(left, right, 32) * inside(top, bottom, 24)
        // Each pixel's opacity is one of 256.
        expect(Math.abs(covered(pixels) - area)).toBeLessThan(0.5 + area * 0.01)
      }),
    )
  })

  it('mix with what is under them, and stay what they are under nothing', () => {
    const pixels = new Pixels(2, 1)
    pixels.rect(0, 0, 1, 1, rgbOf('#ffffff'))
    pixels.rect(0, 0, 2, 1, rgbOf('#000000'), 0.5)
    const [red, , , opacity] = pixels.at(0, 0)
    expect(Math.abs(red - 128)).toBeLessThanOrEqual(1)
    expect(opacity).toBe(255)
    expect(pixels.at(1, 0)[3]).toBe(128)
  })

  it('take no write beyond their edges, from anything', () => {
    fc.assert(
      fc.property(within(20), within(20), within(20), within(20), (a, b, c, d) => {
        const pixels = new Pixels(20, 20)
        pixels.line(a, b, c, d, 3, INK)
        pixels.shape(a, b, 6, (x, y) => Math.hypot(x, y) - 5, INK, INK, 1)
        pixels.profile(
          profileOf([
            [Math.min(a, c), b],
            [Math.max(a, c) + 1, d],
          ]),
          18,
          1.5,
          INK,
          0.2,
        )
        pixels.stamp(pixels, a, d)
        pixels.clear(Math.round(a), Math.round(b), 9, 9)
        expect(pixels.bytes.length).toBe(1600)
      }),
    )
  })
})

describe('a line', () => {
  it('covers as much as it is long and thick, in any direction', () => {
    for (let angle = 0; angle < 360; angle += 15) {
      const pixels = new Pixels(64, 64),
        r = (angle * Math.PI) / 180
      pixels.line(32, 32, 32 + 20 * Math.cos(r), 32 + 20 * Math.sin(r), 3, INK)
      expect(covered(pixels), `${angle}°`).toBeCloseTo(20 * 3 + Math.PI * 1.5 ** 2, -0.7)
    }
  })
})

describe('a profile', () => {
  it('stands where its points are, and is filled down to its datum alone', () => {
    const pixels = new Pixels(40, 40)
    pixels.profile(
      profileOf([
        [4, 30],
        [20, 10],
        [36, 30],
      ]),
      38,
      1.4,
      INK,
      0.2,
    )
    expect(pixels.at(20, 10)[3]).toBeGreaterThan(150)
    expect(pixels.at(20, 25)[3]).toBe(Math.floor(0.2 * 255))
    expect(pixels.at(20, 5)[3]).toBe(0)
    expect(pixels.at(20, 39)[3]).toBe(0)
    expect(pixels.at(2, 35)[3]).toBe(0)
  })

  it('is met in every column between its ends, whatever its points', () => {
    const points = fc.array(
      fc.tuple(fc.double({ min: 0, max: 6, noNaN: true }), fc.double({ min: 4, max: 36, noNaN: true })),
      {
        minLength: 2,
        maxLength: 40,
      },
    )
    fc.assert(
      fc.property(points, (steps) => {
        let x = 2
        const line = steps.map(([by, y]): [number, number] => {
          x = Math.min(58, x + by)
          return [x, y]
        })
        const pixels = new Pixels(60, 40)
        pixels.profile(profileOf(line), 40, 1.4, INK, 0)
        for (let column = Math.ceil(line[0]![0]); column + 1 <= line.at(-1)![0]; column += 1) {
          let sum = 0
          for (let y = 0; y < 40; y += 1) sum += pixels.at(column, y)[3] / 255
          expect(sum, `column ${column}`).toBeGreaterThan(1)
        }
      }),
    )
  })
})
