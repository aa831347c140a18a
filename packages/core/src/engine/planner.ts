import { CATALOGUE } from '../catalogue.ts'
import { align } from '../compile/align.ts'
import { compile } from '../compile/compile.ts'
import { compiled, type Settled } from '../compile/compiled.ts'
import { flatten, type FlatPatch } from '../compile/flatten.ts'
import { type Settings, settingsOf } from '../compile/reach.ts'
import { contextOf, memoryOf } from '../compile/shapes.ts'
import { kindOf } from '../describe/kinds/index.ts'
import type { Plan } from '../compile/plan.ts'
import type { AssetSound, ModuleDescription } from '../describe/types.ts'
import type { Fault, ParamValue, Patch } from '../patch/types.ts'
import { effectivePatch } from '../patch/macros.ts'
import { targetOf } from '../patch/targets.ts'
import { patchIndex } from '../patch/index.ts'
import { splitTarget } from '../patch/walk.ts'
import { targetEvents } from './targets.ts'
import { FADE_FRAMES } from '../kernels/abi.ts'
import type { Delta, Layout } from './layout.ts'
import type { EngineEvent } from './runtime.ts'
import { retired } from './retiring.ts'
import { valueChanges } from './value-changes.ts'

const NO_ASSETS: ReadonlyMap<string, AssetSound> = new Map()

export interface PlannerOptions {
  /** Recordings a patch brings along, by id, as far as they are there. */
  readonly assets?: (patch: Patch) => ReadonlyMap<string, AssetSound>
  /** Greatest values that events to come will set, by target: memory is sized for them. */
  readonly settings?: Settings
}

/** What has to be sent so that the engine plays another patch. */
export type Step =
  | { readonly kind: 'nothing' }
  | { readonly kind: 'events'; readonly events: readonly EngineEvent[] }
  /** `settles`: frames after which, its fades done, the planner wants to be asked again with `settle`. */
  | {
      readonly kind: 'plan'
      readonly delta: Delta
      readonly settles: number | undefined
      readonly events: readonly EngineEvent[]
    }
  | { readonly kind: 'faults'; readonly faults: readonly Fault[] }

/** A set value to be moved: over so many frames, or as its module says (−1). */
export interface ValueMove {
  readonly target: string
  readonly value: ParamValue
  readonly glide: number
}

/**
 * Follows a patch while it is edited and played: values travel as events, changes of structure as a plan that cross-fades
 * from the one before (with what is gone kept for its fade), and then as the settled plan a fresh build would give. Every
 * patch counts as it is heard: macros have moved what they own.
 */
export class Planner {
  private playing: Patch | undefined
  private current: Plan | undefined

  constructor(
    private readonly layout: Layout,
    private readonly sampleRate: number,
    private readonly options: PlannerOptions = {},
  ) {}

  get plan(): Plan | undefined {
    return this.current
  }

  /**
   * The step to another patch. `fade`: words and data that change come by a cross-fade from a copy of the module as it
   * was; without it words change on the sample.
   */
  next(given: Patch, fade = false): Step {
    const before = this.playing,
      patch = effectivePatch(given)
    if (before === patch) return { kind: 'nothing' }
    const changes = before ? valueChanges(before, patch) : undefined
    const words = fade && changes?.some(([target]) => isWord(patch, target))
    const values = changes && !words && this.fits(patch, changes) ? changes : undefined
    const tempo: EngineEvent[] =
      before && before.tempo !== patch.tempo ? [{ type: 'tempo', bpm: patch.tempo ?? 120 }] : []
    if (values) {
      this.playing = patch
      return {
        kind: 'events',
        events: [
          ...values.flatMap(([target, value]) => this.eventsFor({ target, value, glide: -1 })),
          ...tempo,
        ],
      }
    }
    return this.plans(before, patch, fade, tempo)
  }

  /**
   * Moves set values, whether or not they differ: what plays is `patch` afterwards, which has them. Where one of them
   * cannot be set as it is, a plan.
   */
  move(patch: () => Patch, moves: readonly ValueMove[]): Step {
    const { current } = this
    const shadowed = current && current.shadowed.length > 0 ? new Set(current.shadowed) : undefined
    const needsPlan = moves.some(
      ({ target }) => shadowed?.has(target.slice(6)) === true && target.startsWith('cable:'),
    )
    const beyond = moves.some((move) => this.isSized(move.target) && this.isBeyond(move))
    const later = moves.some(({ target }) => this.hasLatency(target) && this.isLaterIn(patch(), target))
    if (needsPlan || later || (beyond && !this.hasRoom(patch()))) {
      // What glides in the plan's stead moves over the usual time.
      const step = this.plans(this.playing, effectivePatch(patch()), false, [])
      const slow = moves.filter(({ glide }) => glide >= 0)
      return step.kind === 'plan' ? { ...step, events: slow.flatMap((move) => this.eventsFor(move)) } : step
    }
    return { kind: 'events', events: moves.flatMap((move) => this.eventsFor(move)) }
  }

  /** Says what plays by now, after moves: the same structure with other values. */
  moved(patch: Patch): void {
    if (this.playing) this.playing = effectivePatch(patch)
  }

  /** The settled plan; to be taken over at least 5 ms after the one that fades. */
  settle(): Step {
    if (!this.playing) return { kind: 'nothing' }
    const result = compiled(this.playing, this.compileOptions(this.playing))
    if (!result.ok) return { kind: 'faults', faults: result.faults }
    this.current = result.plan
    return { kind: 'plan', delta: this.layout.next(result.plan), settles: undefined, events: [] }
  }

  private compileOptions(patch: Patch): Settled {
    const { assets, settings } = this.options
    return {
      sampleRate: this.sampleRate,
      assets: assets?.(patch) ?? NO_ASSETS,
      ...(settings ? { settings } : {}),
    }
  }

  private plans(before: Patch | undefined, patch: Patch, fade: boolean, events: EngineEvent[]): Step {
    const retiring =
      before && this.current
        ? retired(this.alignedOf(before), this.alignedOf(patch), patch, fade ? this.current : undefined)
        : undefined
    const result = compile(patch, {
      ...this.compileOptions(patch),
      ...(this.current ? { previous: this.current } : {}),
      ...(retiring ? { retiring } : {}),
    })
    if (!result.ok) return { kind: 'faults', faults: result.faults }
    const fades = retiring !== undefined || result.plan.adapters.some((adapter) => adapter.fades)
    const settles = fades ? FADE_FRAMES + result.plan.wait : undefined
    this.playing = patch
    this.current = result.plan
    return { kind: 'plan', delta: this.layout.next(result.plan), settles, events }
  }

  private alignedOf(patch: Patch): FlatPatch {
    return align(flatten(patch, CATALOGUE), CATALOGUE, this.sampleRate).flat
  }

  /** Is a module another number of samples late in a patch than in the one that plays? */
  private isLaterIn(patch: Patch, target: string): boolean {
    const id = splitTarget(target)?.[0] ?? ''
    const lateIn = (where: Patch): number | undefined => {
      const module = patchIndex(where).module.get(id)
      return (
        module &&
        CATALOGUE.get(module.type)?.description.latency?.(contextOf(module, CATALOGUE, this.sampleRate))
      )
    }
    return lateIn(this.playing!) !== lateIn(effectivePatch(patch))
  }

  private isSized(target: string): boolean {
    return target.startsWith('cable:') || this.describes(target)?.memory !== undefined
  }

  private hasLatency(target: string): boolean {
    return this.describes(target)?.latency !== undefined
  }

  /** What describes the module of a target. */
  private describes(target: string): ModuleDescription | undefined {
    const type = patchIndex(this.playing!).module.get(splitTarget(target)?.[0] ?? '')?.type
    return type === undefined ? undefined : CATALOGUE.get(type)?.description
  }

  private reach: { readonly patch: Patch; readonly settings: Settings } | undefined
  /** How far everything that moves a patch can go; the same as long as what moves it is. */
  private settingsOf(patch: Patch): Settings {
    const { reach } = this
    const isSame =
      reach?.patch.macros === patch.macros &&
      reach?.patch.snapshots === patch.snapshots &&
      reach?.patch.controllers === patch.controllers
    if (!reach || !isSame) this.reach = { patch, settings: settingsOf(patch, this.options.settings) }
    return this.reach!.settings
  }

  /** Does a move go farther than anything that memory was sized for? */
  private isBeyond({ target, value }: ValueMove): boolean {
    const most = this.settingsOf(this.playing!).get(target)
    const size = target.startsWith('cable:') ? Math.abs(Number(value)) : Number(value)
    return most === undefined || !(size <= most)
  }

  /** Does everything still fit into the memory it has? */
  private hasRoom(patch: Patch): boolean {
    const flat = flatten(effectivePatch(patch), CATALOGUE),
      settings = this.settingsOf(patch)
    return this.current!.modules.every((planned) => {
      const module = flat.byId.get(planned.id)
      return (
        !module ||
        memoryOf(module, planned, flat, settings, CATALOGUE, this.sampleRate, planned.table) <=
          planned.auxBytes
      )
    })
  }

  /** Can the changed values be set as they are, and does everything they touch still fit into the memory it has? */
  private fits(patch: Patch, changes: readonly [string, ParamValue][]): boolean {
    const plan = this.current
    if (plan?.shadowed.some((id) => changes.some(([target]) => target === `cable:${id}`))) return false
    if (changes.some(([target]) => this.hasLatency(target) && this.isLaterIn(patch, target))) return false
    return !plan || !changes.some(([target]) => this.isSized(target)) || this.hasRoom(patch)
  }

  private eventsFor({ target, value, glide }: ValueMove): EngineEvent[] {
    const events = targetEvents(this.layout, this.playing!, target, value, glide, this.sampleRate)
    return Array.isArray(events) ? events : []
  }
}

/** Is this a choice or a switch of a module that can be faded from a copy? */
const isWord = (patch: Patch, target: string): boolean => {
  const found = targetOf(patch, target)
  return (
    found.kind === 'param' &&
    !kindOf(found.param).isContinuous &&
    CATALOGUE.get(found.module.type)?.description.role === undefined
  )
}
