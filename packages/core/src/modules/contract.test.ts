/** What every module promises, tried on every module. */
import { describe, expect, it } from 'vitest'
import { CATALOGUE, PUBLIC_MODULES } from '../catalogue.ts'
import { isSignalParam, slotsOf } from '../describe/slots.ts'
import type { ModuleDescription } from '../describe/types.ts'
import { Engine } from '../engine/engine.ts'
import type { Patch } from '../patch/types.ts'
import { checkPatch } from '../patch/validate.ts'
import { testKernels } from '../testing/kernels.ts'

const RATE = 48000
const MODULES = PUBLIC_MODULES.filter((module) => !module.flattened && module.role !== 'output')

/** Ids of the released contract; none may ever be dropped or renamed. */
const CONTRACT: Readonly<Record<string, { readonly inputs: string; readonly outputs: string; readonly params: string }>> = {
  notes: { inputs: '', outputs: 'pitch gate trigger velocity release pressure slide bend wheel voice scatter any held', params: 'voices mode priority glide glideWhen bendRange transpose detune lowKey highKey lowVelocity highVelocity channel expression velocityCurve' },
  oscillator: { inputs: 'pitch fm hz phase sync', outputs: 'sine triangle saw pulse sub', params: 'octave semitones fine tracking frequency width syncMode startPhase drift level' },
  noise: { inputs: '', outputs: 'white pink brown blue dust', params: 'density level' },
  filter: { inputs: 'in pitch', outputs: 'low band high notch peak morph', params: 'cutoff resonance slope drive tracking morph' },
  envelope: { inputs: 'gate trigger velocity in', outputs: 'env inverse out end', params: 'delay attack hold decay sustain release attackCurve decayCurve releaseCurve retrigger loop velocityAmount' },
  amplifier: { inputs: 'in cv', outputs: 'out', params: 'level response' },
  lfo: { inputs: 'reset', outputs: 'out sine triangle saw fall square', params: 'rate sync shape phase polarity width fade level' },
  mix: { inputs: 'in1 in2 in3 in4', outputs: 'out inverse', params: 'amount1 amount2 amount3 amount4 offset' },
  delayline: { inputs: 'in pitch offset', outputs: 'out tap1 tap2 tap3 tap4', params: 'unit time trim max interpolation feedback at1 at2 at3 at4 smoothing' },
  input: { inputs: '', outputs: 'out', params: 'level from' }, output: { inputs: 'in', outputs: '', params: 'level pair mono' },
  busin: { inputs: 'in', outputs: '', params: 'bus' }, busout: { inputs: '', outputs: 'out', params: 'bus' },
}

interface Variant { readonly voices: number; readonly stereo: boolean }

/** A patch in which everything that can be connected to the module is, in the given shape. */
const surround = (module: ModuleDescription, { voices, stereo }: Variant, choices: Record<string, string> = {}): Patch => {
  const isNotes = module.type === 'notes'
  const cables: object[] = []
  let n = 0
  const cable = (from: string, to: string, amount: number): void => { n += 1; cables.push({ id: `k${n}`, from, to, amount }) }
  for (const port of module.inputs) {
    const from = port.kind === 'pitch' ? 'n.pitch' : port.kind === 'gate' ? 'n.gate' : 'o.saw'
    cable(from, `m.${port.name}`, port.kind === 'audio' || port.kind === 'control' ? 0.5 : 1)
    if (stereo && port.kind === 'audio') cable('i.out', `m.${port.name}`, 0.5)
  }
  for (const param of module.params) {
    if (!isSignalParam(param) || param.kind !== 'number') continue
    cable('o.sine', `m.${param.name}`, param.log || param.time ? 0.5 : (param.max - param.min) * 0.05)
  }
  const value = {
    format: 'ypsilon/patch', version: 1, seed: 5,
    modules: [
      ...(isNotes ? [] : [{ id: 'n', type: 'notes', params: { voices, mode: 'poly' } }]), { id: 'o', type: 'oscillator', params: { octave: -1, fine: 7 } }, { id: 'i', type: 'input' },
      { id: 'm', type: module.type, params: { ...choices, ...(isNotes ? { voices, mode: 'poly', glide: 0.01 } : {}) } },
    ],
    cables: [{ from: isNotes ? 'm.pitch' : 'n.pitch', to: 'o.pitch' }, ...cables],
  }
  const result = checkPatch(value)
  if (!result.ok) throw new Error(result.faults.map((fault) => `${fault.place}: ${fault.message}`).join('\n'))
  return result.value
}

interface Played { readonly engine: Engine; readonly outputs: Map<string, number[]> }

/** Plays a few notes through the patch in segments of the given lengths; every lane of every output is kept. */
const play = (patch: Patch, module: ModuleDescription, seconds: number, lengths: (n: number) => number, feed = 1, silent = false): Played => {
  const engine = new Engine(testKernels(), RATE)
  for (const port of module.outputs) engine.layout.watchRing(`m.${port.name}`)
  const applied = engine.apply(patch)
  if (!applied.ok) throw new Error(applied.faults[0]!.message)
  const { runtime, layout } = engine
  if (!silent) {
    runtime.schedule(100, { type: 'on', note: 50, velocity: 0.9, id: 1 })
    runtime.schedule(777, { type: 'on', note: 57.5, velocity: 0.4, id: 2 })
    runtime.schedule(2000, { type: 'off', note: 50, velocity: 0.3, id: 1 })
    runtime.schedule(2600, { type: 'on', note: 62, velocity: 1, id: 3 })
  }
  const signals = module.outputs.map((port) => ({ key: port.name, signal: layout.signal(`m.${port.name}`)! }))
  const outputs = new Map(signals.map(({ key }) => [key, [] as number[]]))
  const left = new Float32Array(128), right = new Float32Array(128)
  const input = Float32Array.from({ length: 200000 }, (_, i) => feed * Math.sin(i * 0.05 + (i % 7)))
  const total = Math.round(seconds * RATE)
  const keep = (_done: number, length: number): void => {
    for (const { key, signal } of signals) {
      const rows = outputs.get(key)!
      const lanes = Array.from({ length: signal.voices * signal.sides }, (_, lane) => runtime.laneOf(signal.address, lane))
      for (let f = 0; f < length; f += 1) {
        for (const { address, stride } of lanes) rows.push(runtime.f32(address + f * stride))
      }
    }
  }
  for (let done = 0, n = 0; done < total; n += 1) {
    const length = Math.min(lengths(n), total - done)
    runtime.process(left, right, 0, length, { left: input, right: input, offset: done }, keep)
    done += length
  }
  return { engine, outputs }
}

/** Segment lengths 1…128 from a fixed sequence. */
const ragged = (seed: number) => (n: number): number => 1 + ((Math.imul(n + seed, 2654435761) >>> 0) % 128)
const whole = (): number => 128

const VARIANTS: readonly Variant[] = [{ voices: 1, stereo: false }, { voices: 3, stereo: false }, { voices: 16, stereo: false }, { voices: 1, stereo: true }, { voices: 5, stereo: true }]

describe('the contract', () => {
  it('holds every id it ever had', () => {
    for (const [type, ids] of Object.entries(CONTRACT)) {
      const entry = CATALOGUE.get(type)!
      for (const name of ids.inputs.split(' ').filter(Boolean)) expect(entry.inputs.has(name), `${type} in ${name}`).toBe(true)
      for (const name of ids.outputs.split(' ').filter(Boolean)) expect(entry.outputs.has(name), `${type} out ${name}`).toBe(true)
      for (const name of ids.params.split(' ').filter(Boolean)) expect(entry.params.has(name), `${type} param ${name}`).toBe(true)
    }
  })

  it('gives every module help, words and one namespace for what cables end on', () => {
    for (const module of PUBLIC_MODULES) {
      for (const text of Object.values(module.help)) expect(text.length, module.type).toBeGreaterThan(3)
      const names = [...module.inputs.map((port) => port.name), ...module.params.map((param) => param.name)]
      expect(new Set(names).size, module.type).toBe(names.length)
      for (const name of module.front ?? []) expect([...names, ...module.outputs.map((port) => port.name)], `${module.type} front ${name}`).toContain(name)
      for (const param of module.params) {
        if (param.kind === 'number') expect(param.default >= param.min && param.default <= param.max, `${module.type}.${param.name}`).toBe(true)
        if (param.kind === 'choice') expect(param.choices).toContain(param.default)
      }
      expect(slotsOf(module).inputs.size).toBe(module.inputs.length + module.params.filter(isSignalParam).length)
    }
  })

  describe.each(MODULES.map((module) => [module.type, module] as const))('%s', (_type, module) => {
    it.each(VARIANTS)('gives the same samples for any block size, $voices voices, stereo $stereo', (variant) => {
      const patch = surround(module, variant)
      const once = play(patch, module, 0.12, whole), again = play(patch, module, 0.12, ragged(variant.voices))
      for (const [port, rows] of once.outputs) {
        expect(rows.every(Number.isFinite), port).toBe(true)
        const other = again.outputs.get(port)!
        const at = rows.findIndex((x, i) => x !== other[i])
        expect(at === -1 ? '' : `${port} differs at ${at}: ${rows[at]} / ${other[at]}`).toBe('')
      }
    })

    it('follows every choice it offers', () => {
      for (const param of module.params) {
        if (param.kind !== 'choice') continue
        for (const word of param.choices) {
          const { outputs } = play(surround(module, { voices: 2, stereo: false }, { [param.name]: word }), module, 0.03, whole)
          for (const [port, rows] of outputs) expect(rows.every(Number.isFinite), `${param.name} ${word} ${port}`).toBe(true)
        }
      }
    })

    it('survives absurd input and is sound again after it', () => {
      const patch = surround(module, { voices: 2, stereo: false })
      const { engine } = play(patch, module, 0.05, whole)
      const left = new Float32Array(128), right = new Float32Array(128)
      const setAll = (amount: number): void => {
        for (const cable of patch.cables) for (const address of cable.id === undefined ? [] : engine.layout.termAddresses(cable.id)) engine.runtime.send({ event: { type: 'amount', address, value: amount, glide: 1 } })
      }
      setAll(3e38)
      for (let n = 0; n < 20; n += 1) engine.runtime.process(left, right, 0, 128)
      setAll(0)
      for (let n = 0; n < 400; n += 1) engine.runtime.process(left, right, 0, 128)
      for (const port of module.outputs) {
        const signal = engine.layout.signal(`m.${port.name}`)!
        const value = engine.runtime.f32(engine.runtime.u32(signal.address))
        expect(Math.abs(value), port.name).toBeLessThan(2e4)
      }
    })

    it.runIf(!module.sounds)('is exactly silent without input', () => {
      const patch = surround(module, { voices: 2, stereo: false })
      const quiet: Patch = { ...patch, cables: patch.cables.filter((cable) => !cable.to.startsWith('m.')) }
      for (const [port, rows] of play(quiet, module, 0.05, whole, 0, true).outputs) expect(rows.every((x) => x === 0), port).toBe(true)
    })
  })
})
