/** What tests ask of recorded signals, and small patches they ask it with. */
import { hear, patchOf } from './bench.ts'

/** Samples at which a gate rises. */
export const rises = (x: ArrayLike<number>): number[] => {
  const list: number[] = []
  for (let i = 0; i < x.length; i += 1) if (x[i]! > 0.5 && !((x[i - 1] ?? 0) > 0.5)) list.push(i)
  return list
}
/** Samples for which a gate that rose at `from` stays on. */
export const onFor = (x: ArrayLike<number>, from: number): number => {
  let n = 0
  while (x[from + n]! > 0.5) n += 1
  return n
}
export const mean = (x: ArrayLike<number>): number => {
  let sum = 0
  for (let i = 0; i < x.length; i += 1) sum += x[i]!
  return sum / x.length
}
export const peakOf = (x: Float32Array): number => x.reduce((most, v) => Math.max(most, Math.abs(v)), 0)
export const hzOf = (note: number): number => 261.6256 * 2 ** ((note - 60) / 12)

/** What a module gives for constant inputs, port by port. */
export const given = (
  type: string,
  params: Record<string, number | string | boolean>,
  inputs: Record<string, number>,
  ports: readonly string[],
  data: object = {},
): readonly number[] => {
  const names = Object.keys(inputs)
  const heard = hear(
    patchOf(
      [
        ...names.map((name): [string, string, Record<string, number>] => [
          `v${name}`,
          'value',
          { value: inputs[name]! },
        ]),
        ['m', type, params, { data }],
      ],
      names.map((name) => `v${name}.out > m.${name}`),
    ),
    0.02,
    { taps: ports.map((port) => `m.${port}`) },
  )
  return ports.map((port) => Math.round(heard.tap(`m.${port}`).at(-1)! * 1e5) / 1e5 + 0)
}
