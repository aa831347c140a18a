/** What each module costs. */
import { PUBLIC_MODULES } from '../catalogue.ts'
import { compile } from '../compile/compile.ts'
import type { ModuleDescription, SignalKind } from '../describe/types.ts'
import { moduleLoads } from '../engine/load.ts'
import type { Patch } from '../patch/types.ts'
import { patchFrom, RATE } from './measure.ts'

export interface ModuleCost {
  readonly type: string
  readonly nanoseconds: number
  /** Voices times sides it was measured with. */
  readonly lanes: number
  readonly bound: number
}

/** Inputs that are connected in nearly every patch. */
const USUAL = new Set([
  'in',
  'in1',
  'in2',
  'a',
  'b',
  'pitch',
  'gate',
  'trigger',
  'clock',
  'cv',
  'left',
  'right',
  'excite',
])

/** A module in a patch that keeps it busy: gates open and close, and what plays pitches is given some that move. */
const busyPatch = (module: ModuleDescription, voices: number): Patch => {
  const isNotes = module.type === 'notes',
    notes = isNotes ? 'm' : 'n'
  const source: Readonly<Record<SignalKind, string>> = {
    pitch: module.family === 'playing' ? 'v.out' : 'n.pitch',
    gate: 'g.out',
    audio: 'o.saw',
    control: 'o.saw',
  }
  const cables = module.inputs
    .filter((port) => USUAL.has(port.name))
    .map((port) => ({
      from: port.name.includes('clock') ? 'c.square' : source[port.kind],
      to: `m.${port.name}`,
      amount: port.kind === 'control' ? 0.1 : 1,
    }))
  const outs = module.outputs
    .slice(0, 1)
    .map((port) => ({ from: `m.${port.name}`, to: 'out.in', amount: 0.01 }))
  return patchFrom({
    format: 'ypsilon/patch',
    version: 1,
    modules: [
      ...(isNotes ? [] : [{ id: 'n', type: 'notes', params: { voices, mode: 'poly' } }]),
      { id: 'o', type: 'oscillator' },
      { id: 'c', type: 'lfo', params: { rate: 8 } },
      { id: 'g', type: 'multiply' },
      { id: 'v', type: 'mix', params: { amount2: 0.1 } },
      { id: 'm', type: module.type, params: isNotes ? { voices, mode: 'poly' } : {} },
      { id: 'out', type: 'output', params: { level: -40 } },
    ],
    cables: [
      { from: `${notes}.gate`, to: 'g.a' },
      { from: 'c.square', to: 'g.b' },
      { from: `${notes}.pitch`, to: 'v.in1' },
      { from: 'c.sine', to: 'v.in2' },
      { from: `${notes}.pitch`, to: 'o.pitch' },
      ...cables,
      ...outs,
    ],
  })
}

/** Nanoseconds a module takes for one sample of one lane: 16 voices unless told otherwise, its usual inputs connected, notes held. */
export const moduleCosts = (
  kernels: WebAssembly.Module,
  now: () => number,
  seconds = 0.15,
  modules: readonly ModuleDescription[] = PUBLIC_MODULES,
  voices = 16,
): ModuleCost[] =>
  modules
    .filter((module) => !module.flattened && module.role !== 'output')
    .map((module) => {
      const { type, bound } = module,
        patch = busyPatch(module, voices)
      // The least of a few: whatever else the machine does only adds.
      const own = Math.min(
        ...[1, 2, 3, 4].map(() =>
          moduleLoads(kernels, patch, { now, seconds })
            .filter((load) => load.ids.includes('m'))
            .reduce((sum, load) => sum + load.share, 0),
        ),
      )
      const result = compile(patch)
      const shape = result.ok ? result.plan.modules.find((item) => item.id === 'm')! : { voices: 1, sides: 1 }
      const lanes = shape.voices * shape.sides
      return { type, nanoseconds: (own * 1e9) / (RATE * lanes), lanes, bound }
    })
