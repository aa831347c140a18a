import type { Layout } from '@ypsilon/core'
import { describe, expect, it } from 'vitest'
import { type PageWatch, type Report, RING, SUMMARY, THIN_STEP } from './messages.ts'
import { Pictures } from './pictures.ts'

/** A layout that knows every signal but `gone.out`. */
const layout = {
  setWatched: () => undefined,
  signal: (key: string) => (key === 'gone.out' ? undefined : { address: 8, voices: 1, sides: 1 }),
  watchRing: () => ({ address: 64, memoryBytes: 4096 }),
} as unknown as Layout

const watchesOf = (pictures: Pictures): { serial: number; watches: readonly PageWatch[] } => {
  const message = pictures.message(layout)
  if (message.type !== 'watch') throw new Error('not a watch list')
  return message
}
const reportOf = (serial: number, floats: readonly number[], time = 0): Report =>
  ({ type: 'report', serial, time, buffer: Float32Array.from(floats).buffer }) as unknown as Report

/** What the worklet writes for one watch: its samples, then min, max and last. */
const written = ({ isThin }: PageWatch, value: number): number[] => [
  ...Array.from({ length: isThin ? RING / THIN_STEP : RING }, (_, i) => value + i / 1000),
  value - 1,
  value + 1,
  value,
]

describe('pictures of signals', () => {
  it('are every sample of one, and fewer of all others, each read from where it stands', () => {
    const pictures = new Pictures(() => undefined)
    pictures.watch(['a.out', 'gone.out', 'b.out', 'c.out'], new Set(['b.out']))
    const { serial, watches } = watchesOf(pictures)
    expect(watches.map(({ isThin }) => isThin)).toEqual([true, false, true])
    pictures.take(
      reportOf(
        serial,
        watches.flatMap((watch, index) => written(watch, 10 * (index + 1))),
        3 * RING + 128,
      ),
    )
    const [a, b, c] = ['a.out', 'b.out', 'c.out'].map((key) => pictures.picture(key)!)
    expect([a!.ring.length, b!.ring.length, c!.ring.length]).toEqual([128, 512, 128])
    expect([a!.last, b!.last, c!.last]).toEqual([10, 20, 30])
    expect([b!.min, b!.max]).toEqual([19, 21])
    // The oldest sample, where the ring goes on.
    expect([a!.position, b!.position]).toEqual([32, 128])
    expect(pictures.picture('gone.out')).toBeUndefined()
  })

  it('have both sides where all of one is wanted, and what leaves the engine comes last', () => {
    const wide = {
      ...layout,
      signal: (key: string) =>
        key === 'output' ? undefined : { address: 8, voices: 1, sides: key === 'mono.out' ? 1 : 2 },
      watchRing: (_key: string, side?: string) => ({ address: side === 'right' ? 4160 : 64, memoryBytes: 8 }),
    } as unknown as Layout
    const pictures = new Pictures(() => undefined)
    pictures.watch(['a.out', 'mono.out', 'thin.out', 'output'], new Set(['a.out', 'mono.out', 'output']))
    const message = pictures.message(wide)
    if (message.type !== 'watch') throw new Error('not a watch list')
    expect(message.watches.map(({ right }) => right)).toEqual([4160, undefined, undefined])
    expect(message.hasOutput).toBe(true)
    const row = (value: number): number[] => new Array<number>(RING).fill(value)
    const floats = [
      ...[...row(1), 0, 0, 1, ...row(2)],
      ...[...row(3), 0, 0, 3],
      ...[...row(4).slice(0, RING / THIN_STEP), 0, 0, 4],
      ...[...row(5), 0, 0, 0, ...row(6)],
    ]
    pictures.take(reportOf(message.serial, floats))
    const sides = ['a.out', 'mono.out', 'thin.out', 'output'].map((key) => {
      const { ring, right } = pictures.picture(key)!
      return [ring.at(-1), right?.at(-1)]
    })
    expect(sides).toEqual([
      [1, 2],
      [3, undefined],
      [4, undefined],
      [5, 6],
    ])
    // A report that is cut short has no right side to be read.
    pictures.take(reportOf(message.serial, floats.slice(0, -1)))
    expect(pictures.picture('output')).toBeUndefined()
  })

  it('of an older list are read as that list was, and what is cut off is none', () => {
    let changed = 0
    const pictures = new Pictures(() => {
      changed += 1
    })
    pictures.watch(['a.out', 'b.out'], new Set(['a.out']))
    const before = watchesOf(pictures)
    pictures.watch(['a.out', 'b.out'], new Set(['b.out']))
    expect(changed).toBe(2)
    watchesOf(pictures)
    pictures.take(
      reportOf(
        before.serial,
        before.watches.flatMap((watch) => written(watch, 5)),
      ),
    )
    expect(pictures.picture('a.out')!.ring.length).toBe(512)
    pictures.take(reportOf(before.serial, written(before.watches[0]!, 5)))
    expect(pictures.picture('b.out')).toBeUndefined()
    expect(SUMMARY).toBe(3)
  })
})
