import { CATALOGUE } from '../catalogue.ts'
import { compile } from '../compile/compile.ts'
import { flatten, macroModule } from '../compile/flatten.ts'
import { settingsOf } from '../compile/reach.ts'
import { memoryOf } from '../compile/shapes.ts'
import type { Plan } from '../compile/plan.ts'
import type { AssetSound } from '../describe/types.ts'
import type { Cable, Fault, ParamValue, Patch, PatchModule } from '../patch/types.ts'
import { isFormula } from '../patch/formulas.ts'
import { patchIndex } from '../patch/index.ts'
import { splitTarget } from '../patch/walk.ts'
import { targetEvents } from './engine.ts'
import type { Delta, Layout } from './layout.ts'
import type { EngineEvent } from './runtime.ts'
import { own } from '../units/own.ts'
import { append } from '../units/append.ts'

const NO_ASSETS: ReadonlyMap<string, AssetSound> = new Map()

/** What has to be sent so that the engine plays another patch. */
export type Step =
  | { readonly kind: 'nothing' }
  | { readonly kind: 'events'; readonly events: readonly EngineEvent[] }
  /** `settles`: after the fades the planner wants to be asked again with `settle`. */
  | {
      readonly kind: 'plan'
      readonly delta: Delta
      readonly settles: boolean
      readonly events: readonly EngineEvent[]
    }
  | { readonly kind: 'faults'; readonly faults: readonly Fault[] }

/**
 * Follows a patch while it is edited: values travel as events, changes of structure as a plan that cross-fades from the
 * one before (with removed modules kept for their fade), and then as the settled plan a fresh build would give.
 */
export class Planner {
  private playing: Patch | undefined
  private current: Plan | undefined

  constructor(
    private readonly layout: Layout,
    private readonly sampleRate: number,
    private readonly curve: (x: number, curve: number) => number,
    /** Recordings a patch brings along, by id, as far as they are there. */
    private readonly assets: (patch: Patch) => ReadonlyMap<string, AssetSound> = () => NO_ASSETS,
  ) {}

  get plan(): Plan | undefined {
    return this.current
  }

  next(patch: Patch): Step {
    const before = this.playing
    if (before === patch) return { kind: 'nothing' }
    const changes = before ? valueChanges(before, patch) : undefined
    const values = changes && this.fits(patch, changes) ? changes : undefined
    const tempo: EngineEvent[] =
      before && before.tempo !== patch.tempo ? [{ type: 'tempo', bpm: patch.tempo ?? 120 }] : []
    if (values) {
      this.playing = patch
      return {
        kind: 'events',
        events: [...values.flatMap(([target, value]) => this.eventsFor(target, value)), ...tempo],
      }
    }
    const retiring = before && this.current ? retired(before, patch) : undefined
    const result = compile(patch, {
      sampleRate: this.sampleRate,
      assets: this.assets(patch),
      ...(this.current ? { previous: this.current } : {}),
      ...(retiring ? { retiring } : {}),
    })
    if (!result.ok) return { kind: 'faults', faults: result.faults }
    const settles = retiring !== undefined || result.plan.adapters.some((adapter) => adapter.fades)
    this.playing = patch
    this.current = result.plan
    return { kind: 'plan', delta: this.layout.next(result.plan), settles, events: tempo }
  }

  /** The settled plan; to be taken over at least 5 ms after the one that fades. */
  settle(): Step {
    if (!this.playing) return { kind: 'nothing' }
    const result = compile(this.playing, {
      sampleRate: this.sampleRate,
      assets: this.assets(this.playing),
    })
    if (!result.ok) return { kind: 'faults', faults: result.faults }
    this.current = result.plan
    return { kind: 'plan', delta: this.layout.next(result.plan), settles: false, events: [] }
  }

  /** Can the changed values be set as they are, and does everything they touch still fit into the memory it has? */
  private fits(patch: Patch, changes: readonly [string, ParamValue][]): boolean {
    const plan = this.current
    if (plan?.shadowed.some((id) => changes.some(([target]) => target === `cable:${id}`))) return false
    const isSized = (target: string): boolean => {
      const id = splitTarget(target)?.[0]
      const type = plan?.modules.find((module) => module.id === id)?.type
      return (
        target.startsWith('cable:') ||
        (type !== undefined && CATALOGUE.get(type)!.description.memory !== undefined)
      )
    }
    if (!plan || !changes.some(([target]) => isSized(target))) return true
    const flat = flatten(patch, CATALOGUE),
      settings = settingsOf(patch)
    return plan.modules.every((planned) => {
      const module = flat.byId.get(planned.id)
      return (
        !module || memoryOf(module, planned, flat, settings, CATALOGUE, this.sampleRate) <= planned.auxBytes
      )
    })
  }

  private eventsFor(target: string, value: ParamValue): EngineEvent[] {
    if (target.startsWith('~')) {
      const address = this.layout.paramAddress(target)
      return address === undefined ? [] : [{ type: 'param', address, value: Number(value), glide: -1 }]
    }
    const events = targetEvents(this.layout, this.playing!, target, value, -1, this.curve, this.sampleRate)
    return Array.isArray(events) ? events : []
  }
}

const SAME_MODULE = new Set(['params', 'x', 'y', 'label', 'view'])

/** Values that differ between two patches of the same structure; undefined when the structure differs. */
const valueChanges = (before: Patch, after: Patch): [string, ParamValue][] | undefined => {
  if (
    before.modules.length !== after.modules.length ||
    before.cables.length !== after.cables.length ||
    before.seed !== after.seed ||
    before['tuning'] !== after['tuning'] ||
    before['assets'] !== after['assets']
  )
    return undefined
  const changes = macroChanges(before, after)
  if (!changes) return undefined
  for (let i = 0; i < before.modules.length; i += 1) {
    const a = before.modules[i]!,
      b = after.modules[i]!
    if (a === b) continue
    if (a.id !== b.id || a.type !== b.type) return undefined
    for (const field of new Set([...Object.keys(a), ...Object.keys(b)]))
      if (!SAME_MODULE.has(field) && own(a, field) !== own(b, field)) return undefined
    const values = moduleChanges(a, b)
    if (!values) return undefined
    append(changes, values)
  }
  for (let i = 0; i < before.cables.length; i += 1) {
    const a: Cable = before.cables[i]!,
      b: Cable = after.cables[i]!
    if (a === b) continue
    if (
      a.id !== b.id ||
      a.from !== b.from ||
      a.to !== b.to ||
      Boolean(a.muted) !== Boolean(b.muted) ||
      b.id === undefined
    )
      return undefined
    if ((a.amount ?? 1) !== (b.amount ?? 1)) changes.push([`cable:${b.id}`, b.amount ?? 1])
  }
  return changes
}

/** Stored values of macros, for the formulas that read them; undefined when there are others than before. */
const macroChanges = (before: Patch, after: Patch): [string, ParamValue][] | undefined => {
  if (before.macros === after.macros) return []
  const [old, now] = [before.macros ?? [], after.macros ?? []]
  if (old.length !== now.length || old.some((macro, index) => macro.id !== now[index]!.id)) return undefined
  return now.flatMap((macro, index): [string, ParamValue][] =>
    macro.value === old[index]!.value ? [] : [[`${macroModule(macro.id)}.value`, macro.value]],
  )
}

const moduleChanges = (a: PatchModule, b: PatchModule): [string, ParamValue][] | undefined => {
  if (a.params === b.params) return []
  const entry = CATALOGUE.get(b.type)
  const changes: [string, ParamValue][] = []
  for (const name of new Set([...Object.keys(a.params ?? {}), ...Object.keys(b.params ?? {})])) {
    const param = entry?.params.get(name)
    if (!param || own(a.params, name) === own(b.params, name)) continue
    if (param.setOnly || isFormula(own(a.params, name)) || isFormula(own(b.params, name))) return undefined
    changes.push([`${b.id}.${name}`, own(b.params, name) ?? param.default])
  }
  return changes
}

/**
 * Modules gone since the last patch, wherever they stood, with what fed them: they stay for their fade. A module that
 * went into a group or came out of one is not gone.
 */
const retired = (before: Patch, after: Patch): { modules: PatchModule[]; cables: Cable[] } | undefined => {
  const ids = patchIndex(after).module
  if (patchIndex(before).modules.every(({ module }) => ids.has(module.id))) return undefined
  const flat = flatten(before, CATALOGUE)
  const modules = flat.modules.filter((module) => !ids.has(module.id) && !module.id.startsWith('~'))
  if (modules.length === 0) return undefined
  const gone = new Set(modules.map((module) => module.id))
  const cables = [...flat.feeds].flatMap(([to, feeds]) =>
    gone.has(splitTarget(to)?.[0] ?? '')
      ? feeds
          .filter((feed) => !feed.module.startsWith('~'))
          .map((feed): Cable => ({ from: `${feed.module}.${feed.port}`, to, amount: feed.amount }))
      : [],
  )
  return { modules, cables }
}
