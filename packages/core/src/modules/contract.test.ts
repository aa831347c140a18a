/** What every module promises, tried on every module. */
import { existsSync, readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { PUBLIC_MODULES } from '../catalogue.ts'
import { isSignalParam, slotsOf } from '../describe/slots.ts'
import type { Engine } from '../engine/engine.ts'
import type { ModuleDescription } from '../describe/types.ts'
import type { Cable, Patch } from '../patch/types.ts'
import { play, ragged, surround, type Variant, whole } from '../testing/surround.ts'

/** Default settings, then every other choice of every parameter. */
const settingsOf = (module: ModuleDescription): Record<string, string>[] => [
  {},
  ...module.params.flatMap((param) =>
    param.kind === 'choice'
      ? param.choices.filter((word) => word !== param.default).map((word) => ({ [param.name]: word }))
      : [],
  ),
]

const MODULES = PUBLIC_MODULES.filter((module) => !module.flattened && module.role !== 'output')

const CATALOGUE_TYPES = PUBLIC_MODULES.map(({ family, type }) => [family, type] as const)

const VARIANTS: readonly Variant[] = [
  { voices: 1, stereo: false },
  { voices: 3, stereo: false },
  { voices: 16, stereo: false },
  { voices: 1, stereo: true },
  { voices: 5, stereo: true },
]

describe('the contract', () => {
  it('has beside every module its ids and its own tests', () => {
    const lacking = CATALOGUE_TYPES.filter(([family, type]) => {
      const file = new URL(`${family}/${type}/${type}.test.ts`, import.meta.url)
      return !existsSync(file) || !readFileSync(file, 'utf8').includes(`promises('${type}'`)
    })
    expect(lacking).toEqual([])
  })

  it('gives every module help, words and one namespace for what cables end on', () => {
    for (const module of PUBLIC_MODULES) {
      for (const text of Object.values(module.help)) expect(text.length, module.type).toBeGreaterThan(3)
      const names = [...module.inputs.map((port) => port.name), ...module.params.map((param) => param.name)]
      expect(new Set(names).size, module.type).toBe(names.length)
      for (const name of module.front ?? [])
        expect(
          [...names, ...module.outputs.map((port) => port.name)],
          `${module.type} front ${name}`,
        ).toContain(name)
      for (const param of module.params) {
        if (param.kind === 'number')
          expect(
            param.default >= param.min && param.default <= param.max,
            `${module.type}.${param.name}`,
          ).toBe(true)
        if (param.kind === 'choice') expect(param.choices).toContain(param.default)
      }
      expect(slotsOf(module).inputs.size).toBe(
        module.inputs.length + module.params.filter(isSignalParam).length,
      )
    }
  })

  describe.each(MODULES.map((module) => [module.type, module] as const))('%s', (_type, module) => {
    it.each(VARIANTS)(
      'gives the same samples for any block size, $voices voices, stereo $stereo',
      (variant) => {
        const patch = surround(module, variant)
        const once = play(patch, module, 0.12, whole),
          again = play(patch, module, 0.12, ragged(variant.voices))
        for (const [port, rows] of once.outputs) {
          expect(rows.every(Number.isFinite), port).toBe(true)
          const other = again.outputs.get(port)!
          const at = rows.findIndex((x, i) => x !== other[i])
          expect(at === -1 ? '' : `${port} differs at ${at}: ${rows[at]} / ${other[at]}`).toBe('')
        }
        // Sane input never makes a module be cleared, lanes without a voice included.
        expect(once.engine.runtime.resets).toBe(0)
      },
    )

    it('sounds the same whether it may rest or not, and wakes without losing a sample', () => {
      // Nothing moves but the notes, which end and begin again: whatever can rest does.
      const whole3 = surround(module, { voices: 3, stereo: false })
      const calm: Patch = {
        ...whole3,
        modules: whole3.modules.map((item) =>
          item.id === 'o'
            ? {
                ...item,
                type: 'envelope',
                params: { attack: 0.003, decay: 0.01, sustain: 0.5, release: 0.02 },
              }
            : item,
        ),
        cables: whole3.cables
          .filter((cable) => cable.from !== 'o.sine' && cable.to !== 'o.pitch')
          .map((cable) => (cable.from === 'o.saw' ? { ...cable, from: 'o.env' } : cable))
          .concat(
            [{ from: 'n.gate', to: 'o.gate' }].filter(() => whole3.modules.some((item) => item.id === 'n')),
          ),
      }
      const seconds = 0.4
      const notes = (engine: Engine): void => {
        for (const at of [9000, 14500]) {
          engine.runtime.schedule(at, { type: 'off', note: 57.5, velocity: 0, id: 2 })
          engine.runtime.schedule(at + 700, { type: 'on', note: 48, velocity: 0.7, id: at })
          engine.runtime.schedule(at + 1500, { type: 'off', note: 48, velocity: 0, id: at })
          engine.runtime.schedule(at + 1600, { type: 'off', note: 62, velocity: 0, id: 3 })
        }
      }
      const a = play(calm, module, seconds, whole, 0, false, true, notes),
        b = play(calm, module, seconds, whole, 0, false, false, notes)
      for (const [port, rows] of a.outputs) {
        const other = b.outputs.get(port)!,
          at = rows.findIndex((x, i) => x !== other[i])
        expect(at === -1 ? '' : `${port} differs at ${at}: ${rows[at]} resting / ${other[at]}`).toBe('')
      }
    })

    it('follows every choice it offers', () => {
      for (const param of module.params) {
        if (param.kind !== 'choice') continue
        for (const word of param.choices) {
          const { outputs } = play(
            surround(module, { voices: 2, stereo: false }, { [param.name]: word }),
            module,
            0.03,
            whole,
          )
          for (const [port, rows] of outputs)
            expect(rows.every(Number.isFinite), `${param.name} ${word} ${port}`).toBe(true)
        }
      }
    })

    it.each(settingsOf(module))('survives absurd input and is sound again after it, %o', (choices) => {
      const patch = surround(module, { voices: 2, stereo: false }, choices)
      const { engine } = play(patch, module, 0.02, whole)
      const left = new Float32Array(128),
        right = new Float32Array(128)
      const setAll = (amountOf: (cable: Cable) => number): void => {
        for (const cable of patch.cables)
          for (const { address } of cable.id === undefined ? [] : engine.layout.termAddresses(cable.id))
            engine.runtime.send({ event: { type: 'amount', address, value: amountOf(cable), glide: 1 } })
      }
      const run = (blocks: number): void => {
        for (let n = 0; n < blocks; n += 1) engine.runtime.process(left, right, 0, 128)
      }
      /** Loudest of a block, every lane of an output; not a number where one sample is none. */
      const peakOf = (port: string): number => {
        const signal = engine.layout.signal(`m.${port}`)!
        let peak = 0
        for (let lane = 0; lane < signal.voices * signal.sides; lane += 1) {
          const { address, stride } = engine.runtime.laneOf(signal.address, lane)
          for (let f = 0; f < 128; f += 1)
            peak = Math.max(peak, Math.abs(engine.runtime.f32(address + f * stride)))
        }
        return peak
      }
      const wrong: string[] = []
      for (const absurd of [3e38, 1e20, 1e6]) {
        setAll(() => absurd)
        run(20)
        for (const back of [() => 0, (cable: Cable) => cable.amount ?? 1]) {
          setAll(back)
          run(80)
          const before = module.outputs.map((port) => peakOf(port.name))
          run(20)
          module.outputs.forEach((port, index) => {
            const peak = peakOf(port.name)
            // What was followed truly dies away.
            if (!(peak < 2e4 || peak < 0.9 * before[index]!))
              wrong.push(`${port.name}: ${peak} after ${absurd}`)
          })
        }
      }
      expect(wrong.slice(0, 3)).toEqual([])
    })

    it.runIf(!module.sounds)('is exactly silent without input', () => {
      const patch = surround(module, { voices: 2, stereo: false })
      const quiet: Patch = { ...patch, cables: patch.cables.filter((cable) => !cable.to.startsWith('m.')) }
      for (const [port, rows] of play(quiet, module, 0.05, whole, 0, true).outputs)
        expect(
          rows.every((x) => x === 0),
          port,
        ).toBe(true)
    })
  })
})
