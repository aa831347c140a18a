/** Every word of every module recalled while a sine plays through it: a fade, never a click. */
import FFT from 'fft.js'
import { describe, expect, it } from 'vitest'
import { PUBLIC_MODULES } from '../catalogue.ts'
import type { ModuleDescription, ParamDescription } from '../describe/types.ts'
import { faultText, type ParamValue, type Patch } from '../patch/types.ts'
import { checkPatch } from '../patch/validate.ts'
import { hear } from '../testing/bench.ts'

const RATE = 48000,
  AT = 0.2037,
  WINDOW = 240

/** Energy above 10 kHz of 5 ms, through a Hann window. */
const highEnergy = (x: Float32Array, start: number): number => {
  const fft = new FFT(512),
    windowed = new Array<number>(512).fill(0)
  for (let i = 0; i < WINDOW; i += 1)
    windowed[i] = x[start + i]! * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / WINDOW))
  const out = fft.createComplexArray() as number[]
  fft.realTransform(out, windowed)
  let energy = 0
  for (let bin = Math.ceil((10000 * 512) / RATE); bin < 256; bin += 1)
    energy += out[2 * bin]! ** 2 + out[2 * bin + 1]! ** 2
  return energy
}

/** What a module is tried with: a sine of its own or through it, at a note held all along. */
const patchWith = (
  module: ModuleDescription,
  param: ParamDescription,
  from: ParamValue,
  to: ParamValue,
): Patch => {
  const output = module.outputs.find(({ kind }) => kind === 'audio')!
  const input = module.inputs.find(({ kind }) => kind === 'audio')
  const result = checkPatch({
    format: 'ypsilon/patch',
    version: 1,
    name: 'Words',
    modules: [
      { id: 'osc', type: 'oscillator', params: { tracking: false, frequency: 220 } },
      { id: 'one', type: 'value', params: { value: 1 } },
      { id: 'm', type: module.type, params: { [param.name]: from } },
      { id: 'out', type: 'output', params: { level: -18 } },
    ],
    cables: [
      ...(input ? [{ from: 'osc.sine', to: `m.${input.name}` }] : []),
      ...(module.closedBy ? [{ from: 'one.out', to: `m.${module.closedBy}` }] : []),
      { from: `m.${output.name}`, to: 'out.in' },
    ],
    snapshots: [{ id: 's', name: 'S', params: { [`m.${param.name}`]: to } }],
  })
  if (!result.ok) throw new Error(result.faults.map(faultText).join('\n'))
  return result.value
}

const SOUNDING = PUBLIC_MODULES.filter(
  (module) =>
    !module.flattened && module.role === undefined && module.outputs.some(({ kind }) => kind === 'audio'),
)
const WORDS = SOUNDING.flatMap((module) =>
  module.params
    .filter((param) => !param.setOnly && (param.kind === 'choice' || param.kind === 'switch'))
    .flatMap((param): [string, ModuleDescription, ParamDescription, ParamValue, ParamValue][] => {
      const words: readonly ParamValue[] = param.kind === 'choice' ? param.choices : [false, true]
      const from = param.default as ParamValue
      return words
        .filter((word) => word !== from)
        .map((word) => [
          `${module.type}.${param.name} ${String(from)} → ${String(word)}`,
          module,
          param,
          from,
          word,
        ])
    }),
)

describe('recalling a word', () => {
  it.each(WORDS)('%s fades', (_name, module, param, from, to) => {
    const patch = patchWith(module, param, from, to)
    const { out } = hear(patch, 0.45, { events: [{ t: AT, type: 'snapshot', target: 's' }] })
    const frame = Math.round(AT * RATE)
    let rest = 1e-9
    for (let n = 0; n < 40; n += 1)
      rest = Math.max(rest, highEnergy(out, frame - 6000 + 137 * n), highEnergy(out, frame + 2400 + 137 * n))
    let most = 0
    for (let start = frame - WINDOW; start < frame + 480; start += 24)
      most = Math.max(most, highEnergy(out, start))
    expect(10 * Math.log10(most / rest)).toBeLessThan(6)
  })
})
