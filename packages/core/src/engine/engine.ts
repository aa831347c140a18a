import { CATALOGUE } from '../catalogue.ts'
import { paramAt } from '../describe/params.ts'
import { compile, plainValue } from '../compile/compile.ts'
import type { AssetSound } from '../describe/types.ts'
import { macroModule } from '../compile/flatten.ts'
import { type Plan } from '../compile/plan.ts'
import { topological } from '../patch/graph.ts'
import type { Fault, Macro, Patch, ParamValue, Result } from '../patch/types.ts'
import { patchIndex } from '../patch/index.ts'
import { splitTarget } from '../patch/walk.ts'
import { Layout, SMOOTHING_SECONDS } from './layout.ts'
import { type EngineEvent, Runtime } from './runtime.ts'
import { append } from '../units/append.ts'

/** Layout and runtime in one thread: offline renders, the command line, tests. */
export class Engine {
  readonly runtime: Runtime
  readonly layout: Layout
  private plan: Plan | undefined
  private patch: Patch | undefined

  constructor(
    kernels: WebAssembly.Module,
    readonly sampleRate = 48000,
    private readonly options: {
      readonly best?: boolean
      readonly assets?: ReadonlyMap<string, AssetSound>
      /** Greatest values that events to come will set, by target. */
      readonly settings?: ReadonlyMap<string, number>
    } = {},
  ) {
    this.runtime = new Runtime(kernels, sampleRate, options)
    this.layout = new Layout(this.runtime.facts, sampleRate)
  }

  /** Compiles and takes over a patch at once. */
  apply(patch: Patch): Result<Plan> {
    const result = compile(patch, {
      sampleRate: this.sampleRate,
      ...(this.options.assets ? { assets: this.options.assets } : {}),
      ...(this.options.settings ? { settings: this.options.settings } : {}),
      ...(this.plan && this.runtime.time > 0 ? { previous: this.plan } : {}),
    })
    if (!result.ok) return result
    this.runtime.load(this.layout.next(result.plan))
    this.plan = result.plan
    this.patch = patch
    return { ok: true, value: result.plan, warnings: [] }
  }

  /** The engine events that set a target; a fault when there is no such target or it cannot change while playing. */
  eventFor(target: string, value: ParamValue, glideFrames = -1): EngineEvent[] | Fault {
    return targetEvents(
      this.layout,
      this.patch!,
      target,
      value,
      glideFrames,
      (x, curve) => this.runtime.curve(x, curve),
      this.sampleRate,
    )
  }
}

/** What setting a target means to the engine: macros become many events. */
export const targetEvents = (
  layout: Layout,
  patch: Patch,
  target: string,
  value: ParamValue,
  glideFrames: number,
  curve: (x: number, curve: number) => number,
  sampleRate: number,
): EngineEvent[] | Fault => {
  if (target.startsWith('cable:')) {
    const terms = layout.termAddresses(target.slice(6))
    const glide = glideFrames >= 0 ? glideFrames : Math.round(SMOOTHING_SECONDS * sampleRate)
    layout.noteAmount(target.slice(6), Number(value))
    return terms.map(({ address, scale }) => ({
      type: 'amount',
      address,
      value: Number(value) * scale,
      glide: Math.max(1, glide),
    }))
  }
  if (target.startsWith('macro:'))
    return macroEvents(layout, patch, target.slice(6), value, glideFrames, curve, sampleRate)
  const [id, name] = splitTarget(target) ?? ['', '']
  const module = patchIndex(patch).module.get(id)
  const known = module && CATALOGUE.get(module.type)?.params.get(name)
  const param = known && paramAt(known, module.params)
  if (!module || !param) return { place: target, message: 'there is no such parameter' }
  if (param.setOnly) return { place: target, message: 'is set only: it cannot change while playing' }
  const plain = plainValue(param, value)
  const address = layout.paramAddress(target)
  if (address !== undefined) {
    layout.noteBase(target, plain)
    const clamped = param.kind === 'number' ? Math.min(param.max, Math.max(param.min, plain)) : plain
    return [{ type: 'param', address, value: clamped, glide: glideFrames }]
  }
  const setting = layout.settingAddress(target)
  return setting ? [{ type: 'setting', address: setting.address, value: plain, whole: setting.whole }] : []
}

/** Macros that a macro moves, itself first, each after all that move it. */
const movedBy = (first: Macro, macros: ReadonlyMap<string, Macro>): Macro[] => {
  const reached = new Set([first])
  const innerOf = (macro: Macro): Macro[] =>
    (macro.targets ?? []).flatMap(({ param }) =>
      param.startsWith('macro:') ? (macros.get(param.slice(6)) ?? []) : [],
    )
  for (const macro of reached) for (const inner of innerOf(macro)) reached.add(inner)
  const list = [...reached],
    numbers = new Map(list.map((macro, index) => [macro, index]))
  return topological(
    [...list.keys()],
    list.map((macro) => innerOf(macro).map((inner) => numbers.get(inner)!)),
  ).map((index) => list[index]!)
}

/** A move of a macro: its targets, and those of the macros it moves; each macro once, with the last value it is given. */
const macroEvents = (
  layout: Layout,
  patch: Patch,
  id: string,
  value: ParamValue,
  glideFrames: number,
  curve: (x: number, curve: number) => number,
  sampleRate: number,
): EngineEvent[] | Fault => {
  const { macro: macros } = patchIndex(patch)
  const first = macros.get(id)
  if (!first) return { place: `macro:${id}`, message: 'there is no such macro' }
  const values = new Map([[first.id, Number(value)]])
  const events: EngineEvent[] = []
  for (const macro of movedBy(first, macros)) {
    const given = values.get(macro.id)!
    const share = macro.step && macro.step > 0 ? Math.round(given / macro.step) * macro.step : given
    const read = layout.paramAddress(`${macroModule(macro.id)}.value`)
    if (read !== undefined) events.push({ type: 'param', address: read, value: share, glide: glideFrames })
    for (const item of macro.targets ?? []) {
      const bent = curve(Math.min(1, Math.max(0, share)), item.curve ?? 0)
      const moved = item.from + (item.to - item.from) * bent
      if (item.param.startsWith('macro:')) {
        values.set(item.param.slice(6), moved)
        continue
      }
      const inner = targetEvents(layout, patch, item.param, moved, glideFrames, curve, sampleRate)
      if (!Array.isArray(inner)) return inner
      append(events, inner)
    }
  }
  return events
}
