import { compile } from '../compile/compile.ts'
import type { Plan } from '../compile/plan.ts'
import type { AssetSound } from '../describe/types.ts'
import type { Patch, Result } from '../patch/types.ts'
import { Layout } from './layout.ts'
import { Runtime } from './runtime.ts'

/** Layout and runtime in one thread: offline renders, the command line, tests. */
export class Engine {
  readonly runtime: Runtime
  readonly layout: Layout
  private plan: Plan | undefined

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
    return { ok: true, value: result.plan, warnings: [] }
  }
}
