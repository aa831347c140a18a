import { CATALOGUE } from '../catalogue.ts'
import { paramAt } from '../describe/params.ts'
import { compile, plainValue } from '../compile/compile.ts'
import type { AssetSound } from '../describe/types.ts'
import { macroModule } from '../compile/flatten.ts'
import { type Plan } from '../compile/plan.ts'
import type { Fault, Patch, ParamValue, Result } from '../patch/types.ts'
import { splitTarget, everyModule } from '../patch/walk.ts'
import { Layout, SMOOTHING_SECONDS } from './layout.ts'
import { type EngineEvent, Runtime } from './runtime.ts'

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
    return terms.map((address) => ({
      type: 'amount',
      address,
      value: Number(value),
      glide: Math.max(1, glide),
    }))
  }
  if (target.startsWith('macro:')) {
    const macro = patch.macros?.find((item) => item.id === target.slice(6))
    if (!macro) return { place: target, message: 'there is no such macro' }
    const steps =
      macro.step && macro.step > 0 ? Math.round(Number(value) / macro.step) * macro.step : Number(value)
    const read = layout.paramAddress(`${macroModule(macro.id)}.value`)
    const events: EngineEvent[] =
      read === undefined ? [] : [{ type: 'param', address: read, value: steps, glide: glideFrames }]
    for (const item of macro.targets) {
      const moved =
        item.from + (item.to - item.from) * curve(Math.min(1, Math.max(0, steps)), item.curve ?? 0)
      const inner = targetEvents(layout, patch, item.param, moved, glideFrames, curve, sampleRate)
      if (!Array.isArray(inner)) return inner
      events.push(...inner)
    }
    return events
  }
  const [id, name] = splitTarget(target) ?? ['', '']
  const module = everyModule(patch).find((item) => item.module.id === id)?.module
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
