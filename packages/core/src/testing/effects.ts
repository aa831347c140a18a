/** Sounds sent through one effect, for tests. */
import { hear, type Heard, patchOf } from './bench.ts'
import { Dice } from '../units/dice.ts'

type Params = Record<string, number | string | boolean>
export const RATE = 48000

/** Both sides of an effect for a sound at `in`, by output. */
export const through = (
  type: string,
  params: Params,
  sound: Float32Array | readonly [Float32Array, Float32Array],
  outputs: readonly string[] = ['out'],
): ((output?: string) => readonly Float32Array[]) => {
  const [left, right] = sound instanceof Float32Array ? [sound, sound] : sound
  const patch = patchOf(
    [
      ['i', 'input'],
      ['e', type, params],
      ['o', 'output'],
    ],
    ['i.out > e.in', `e.${outputs[0]!} > o.in`],
  )
  const heard: Heard = hear(patch, left.length / RATE, {
    input: { rate: RATE, channels: [left, right] },
    taps: outputs.map((port) => `e.${port}`),
  })
  return (output = outputs[0]!) => heard.lanes(`e.${output}`)
}

export const click = (seconds: number): Float32Array => {
  const x = new Float32Array(Math.round(seconds * RATE))
  x[0] = 1
  return x
}

export const sine = (hz: number, seconds: number, level = 0.5): Float32Array =>
  Float32Array.from(
    { length: Math.round(seconds * RATE) },
    (_, n) => level * Math.sin((2 * Math.PI * hz * n) / RATE),
  )

/** Pink noise of both sides, white through three poles; the same at every call. */
export const pink = (seconds: number, seed = 7): Float32Array => {
  const dice = new Dice(seed)
  let [a, b, c] = [0, 0, 0]
  return Float32Array.from({ length: Math.round(seconds * RATE) }, () => {
    const white = 2 * dice.unit() - 1
    a = 0.99765 * a + white * 0.099046
    b = 0.963 * b + white * 0.2965164
    c = 0.57 * c + white * 1.0526913
    return 0.1 * (a + b + c + white * 0.1848)
  })
}
