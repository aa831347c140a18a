/** What every module promises, tried on every module. */
import { describe, expect, it } from 'vitest'
import { CATALOGUE, PUBLIC_MODULES } from '../catalogue.ts'
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

/** Ids of the released contract; none may ever be dropped or renamed. */
const CONTRACT: Readonly<
  Record<string, { readonly inputs: string; readonly outputs: string; readonly params: string }>
> = {
  notes: {
    inputs: '',
    outputs: 'pitch gate trigger velocity release pressure slide bend wheel voice scatter any held',
    params:
      'voices mode priority glide glideWhen bendRange transpose detune lowKey highKey lowVelocity highVelocity channel expression velocityCurve',
  },
  oscillator: {
    inputs: 'pitch fm hz phase sync reset',
    outputs: 'sine triangle saw pulse sub',
    params: 'octave semitones fine tracking frequency width syncMode startPhase drift level',
  },
  noise: { inputs: '', outputs: 'white pink brown blue dust', params: 'density level per' },
  filter: {
    inputs: 'in pitch',
    outputs: 'low band high notch peak morph',
    params: 'cutoff resonance slope drive tracking morph',
  },
  envelope: {
    inputs: 'gate trigger velocity in',
    outputs: 'env inverse out end',
    params:
      'delay attack hold decay sustain release attackCurve decayCurve releaseCurve retrigger loop velocityAmount',
  },
  amplifier: { inputs: 'in cv', outputs: 'out', params: 'level response' },
  lfo: {
    inputs: 'reset',
    outputs: 'out sine triangle saw fall square',
    params: 'rate sync shape phase polarity width fade level',
  },
  mix: {
    inputs: 'in1 in2 in3 in4',
    outputs: 'out inverse',
    params: 'amount1 amount2 amount3 amount4 offset',
  },
  delayline: {
    inputs: 'in pitch offset',
    outputs: 'out tap1 tap2 tap3 tap4',
    params: 'unit time trim max interpolation feedback at1 at2 at3 at4 smoothing',
  },
  input: { inputs: '', outputs: 'out', params: 'level from' },
  output: { inputs: 'in', outputs: '', params: 'level pair mono' },
  busin: { inputs: 'in', outputs: '', params: 'bus' },
  busout: { inputs: '', outputs: 'out', params: 'bus' },
  clock: {
    inputs: 'reset',
    outputs: 'beat bar phase run start div1 div2 div3 div4',
    params: 'source tempo division1 division2 division3 division4 swing width',
  },
  divide: { inputs: 'clock reset', outputs: 'out', params: 'divide multiply offset width' },
  steps: {
    inputs: 'clock reset',
    outputs: 'a b gate trigger accent end',
    params: 'length order gateLength rangeA rangeB keep',
  },
  euclid: { inputs: 'clock reset', outputs: 'trigger gate accent end', params: 'steps hits rotate accents' },
  arp: {
    inputs: 'pitch gate clock reset',
    outputs: 'pitch gate trigger',
    params: 'order octaves gateLength latch',
  },
  pattern: {
    inputs: 'reset',
    outputs: 'pitch gate trigger velocity scatter',
    params: 'voices bars mode transpose',
  },
  chord: {
    inputs: 'pitch',
    outputs: 'pitch scatter',
    params: 'notes interval2 interval3 interval4 interval5 interval6 interval7 interval8 inversion spread',
  },
  quantize: { inputs: 'in trigger shift', outputs: 'out changed', params: 'root direction' },
  shift: { inputs: 'in', outputs: 'out', params: 'octaves semitones cents' },
  glide: { inputs: 'in gate', outputs: 'out', params: 'rise fall curve link' },
  button: { inputs: '', outputs: 'gate trigger', params: 'mode on key' },
  wavetable: {
    inputs: 'pitch fm hz phase sync reset',
    outputs: 'a b',
    params: 'position offset octave semitones fine tracking frequency level',
  },
  operator: {
    inputs: 'pitch gate velocity phase hz reset',
    outputs: 'out env',
    params:
      'ratio fine fixed frequency shape feedback level envelope attack decay sustain release velocityAmount',
  },
  unison: {
    inputs: 'pitch phase reset',
    outputs: 'out',
    params: 'copies detune spread blend shape width octave semitones fine level',
  },
  partials: {
    inputs: 'pitch reset',
    outputs: 'out odd even',
    params: 'count series stretch tilt motion motionRate motionRatio level',
  },
  phasor: {
    inputs: 'pitch hz sync reset',
    outputs: 'out',
    params: 'frequency tracking octave semitones fine',
  },
  string: {
    inputs: 'pitch gate excite',
    outputs: 'out',
    params:
      'decay damping position stiffness coupled coupling1 coupling2 coupling3 coupleTune1 coupleTune2 coupleTune3 pluck level',
  },
  modes: { inputs: 'pitch excite trigger', outputs: 'out', params: 'model count decay tone spread level' },
  strike: { inputs: 'trigger velocity', outputs: 'out', params: 'kind length tone level' },
  value: { inputs: '', outputs: 'out', params: 'value low high unit' },
  ladder: { inputs: 'in pitch', outputs: 'out', params: 'cutoff resonance slope mode drive tracking' },
  comb: { inputs: 'in pitch', outputs: 'out', params: 'frequency feedback feedforward damping tracking' },
  allpass: { inputs: 'in pitch return', outputs: 'out send', params: 'unit time gain interpolation' },
  formant: { inputs: 'in', outputs: 'out', params: 'vowel size sharpness mix' },
  equalizer: {
    inputs: 'in',
    outputs: 'out',
    params:
      [1, 2, 3, 4, 5, 6].map((n) => `b${n}type b${n}freq b${n}gain b${n}q b${n}on`).join(' ') + ' output',
  },
  multiply: { inputs: 'a b', outputs: 'out', params: 'depth level' },
  drive: { inputs: 'in', outputs: 'out', params: 'gain curve bias tone mix output' },
  folder: { inputs: 'in', outputs: 'out', params: 'folds symmetry output' },
  shaper: { inputs: 'in', outputs: 'out', params: 'gain mix' },
  crush: { inputs: 'in', outputs: 'out', params: 'bits rate mix' },
  lowpassgate: { inputs: 'in cv trigger', outputs: 'out', params: 'decay resonance mode' },
  dynamics: {
    inputs: 'in side',
    outputs: 'out reduction',
    params: 'threshold ratio attack release knee makeup mix lookahead',
  },
  transient: { inputs: 'in', outputs: 'out', params: 'attack sustain mix' },
  limiter: { inputs: 'in', outputs: 'out reduction', params: 'ceiling release lookahead' },
  decay: {
    inputs: 'trigger velocity in',
    outputs: 'env out end',
    params: 'attack decay curve power velocityAmount',
  },
  contour: { inputs: 'gate trigger', outputs: 'out end', params: 'length sync mode scale' },
  lfobank: {
    inputs: 'reset',
    outputs: 'out1 out2 out3 out4 out5 out6 out7 out8',
    params: 'rate ratio spread shape polarity level',
  },
  drift: { inputs: '', outputs: 'out opposite', params: 'rate depth smooth per' },
  fan: {
    inputs: 'in',
    outputs: 'out1 out2 out3 out4 out5 out6 out7 out8',
    params: 'centre width pattern smooth polarity',
  },
  chance: { inputs: 'in', outputs: 'hit miss', params: 'probability mode' },
  hold: { inputs: 'in clock', outputs: 'out', params: 'mode rate polarity level glide per' },
  random: {
    inputs: 'clock reset',
    outputs: 'stepped smooth trigger',
    params: 'distribution loop change polarity rate per',
  },
  follower: { inputs: 'in', outputs: 'env gate', params: 'attack release threshold gain' },
  map: { inputs: 'in', outputs: 'out', params: 'inLow inHigh outLow outHigh curve clamp' },
  formula: { inputs: 'a b c d', outputs: 'x y', params: 'p1 p2 p3 p4' },
  curve: { inputs: 'in', outputs: 'out', params: '' },
  compare: { inputs: 'a b', outputs: 'above below', params: 'level hysteresis' },
  logic: { inputs: 'a b', outputs: 'and or xor not flip', params: '' },
  gate: { inputs: 'in', outputs: 'gate start end', params: 'delay length' },
  switch: {
    inputs: 'in1 in2 in3 in4 in5 in6 in7 in8 clock reset select',
    outputs: 'out',
    params: 'steps order fade',
  },
  route: {
    inputs: 'in clock reset select',
    outputs: 'out1 out2 out3 out4 out5 out6 out7 out8',
    params: 'steps order fade',
  },
  crossfade: { inputs: 'a b', outputs: 'out', params: 'position law' },
  rectify: { inputs: 'in', outputs: 'full positive negative', params: '' },
  mixer: {
    inputs: 'in1 in2 in3 in4 in5 in6 in7 in8 returnA returnB',
    outputs: 'out sendA sendB',
    params:
      [1, 2, 3, 4, 5, 6, 7, 8]
        .map(
          (n) =>
            `level${n} pan${n} mute${n} solo${n} invert${n} low${n} mid${n} high${n} sendA${n} sendB${n}`,
        )
        .join(' ') + ' level gain',
  },
  pan: { inputs: 'in', outputs: 'out', params: 'pan law' },
  stereo: { inputs: 'in', outputs: 'out mid side', params: 'width rotate swap' },
  split: { inputs: 'in', outputs: 'left right', params: '' },
  join: { inputs: 'left right', outputs: 'out', params: '' },
  junction: { inputs: 'left right', outputs: 'toleft toright', params: 'reflection form' },
  sum: { inputs: 'in', outputs: 'out', params: 'level gain' },
  copy: { inputs: 'in', outputs: 'out', params: 'voices' },
  stack: { inputs: 'in1 in2 in3 in4 in5 in6 in7 in8', outputs: 'out', params: 'voices' },
  unstack: { inputs: 'in', outputs: 'out1 out2 out3 out4 out5 out6 out7 out8', params: '' },
  scope: { inputs: 'in second sync', outputs: 'out', params: 'window' },
  spectrum: { inputs: 'in', outputs: 'out', params: '' },
  tuner: { inputs: 'in', outputs: 'out', params: '' },
  meter: { inputs: 'in', outputs: 'out', params: '' },
}

/** Data of the contract, by module. */
const CONTRACT_DATA: Readonly<Record<string, string>> = {
  steps: 'a b on chance repeat tie accents',
  pattern: 'notes',
  quantize: 'scale',
  wavetable: 'table',
  partials: 'levels on ratios',
  modes: 'ratios levels decays',
  shaper: 'curve',
  contour: 'points',
  formula: 'text',
  curve: 'points',
}

const VARIANTS: readonly Variant[] = [
  { voices: 1, stereo: false },
  { voices: 3, stereo: false },
  { voices: 16, stereo: false },
  { voices: 1, stereo: true },
  { voices: 5, stereo: true },
]

describe('the contract', () => {
  it('holds every id it ever had', () => {
    for (const [type, ids] of Object.entries(CONTRACT)) {
      const entry = CATALOGUE.get(type)!
      for (const name of ids.inputs.split(' ').filter(Boolean))
        expect(entry.inputs.has(name), `${type} in ${name}`).toBe(true)
      for (const name of ids.outputs.split(' ').filter(Boolean))
        expect(entry.outputs.has(name), `${type} out ${name}`).toBe(true)
      for (const name of ids.params.split(' ').filter(Boolean))
        expect(entry.params.has(name), `${type} param ${name}`).toBe(true)
    }
  })

  it('holds every name of data it ever had', () => {
    for (const [type, names] of Object.entries(CONTRACT_DATA))
      expect(
        CATALOGUE.get(type)!
          .description.data!.map((item) => item.name)
          .sort(),
        type,
      ).toEqual(names.split(' ').sort())
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
