/* eslint max-lines: ["error", 500] -- one harness: everything at once, thrown */
/** Random playing on random patches: live and offline are the same, twice the same, and the same from the start on. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { CATALOGUE, PUBLIC_MODULES } from '../catalogue.ts'
import { compile } from '../compile/compile.ts'
import { isSignalParam, kindOf } from '../describe/kinds/index.ts'
import type { ModuleDescription } from '../describe/types.ts'
import type { PlayerEvent } from '../notes/events.ts'
import { removeModules } from '../patch/edits.ts'
import { checkPatch } from '../patch/validate.ts'
import { faultText, type ParamValue, type Patch } from '../patch/types.ts'
import { render } from '../render/render.ts'
import { TERM_AMOUNT } from '../kernels/abi.ts'
import { Dice } from '../units/dice.ts'
import { testKernels } from '../testing/kernels.ts'
import { Live } from '../testing/live.ts'
import { eventFault } from './check.ts'
import { Recorder, type Untimed } from './recorder.ts'

const RATE = 48000
const TYPES = PUBLIC_MODULES.filter((module) => !module.flattened && module.role === undefined)

type Param = ModuleDescription['params'][number]
const valueFor = (param: Param, dice: Dice): ParamValue | undefined => {
  if (param.kind !== 'number') return kindOf(param).way(param, 0, 1)?.at(dice.unit())
  const value = dice.between(param.min, param.name === 'max' ? Math.min(0.2, param.max) : param.max)
  return param.whole ? Math.round(value) : value
}

interface Aim {
  readonly target: string
  readonly param: Param
}

/** What of a patch can be moved: numbers, words and what is set only. */
const aimsOf = (modules: readonly { readonly id: string; readonly type: ModuleDescription }[]): Aim[] =>
  modules.flatMap(({ id, type }) =>
    type.params
      .filter(({ kind, name }) => kind !== 'text' && name !== 'max')
      .map((param) => ({ target: `${id}.${param.name}`, param })),
  )

const snapshotOf = (aims: readonly Aim[], dice: Dice, n: number): object => {
  const params: Record<string, ParamValue> = {}
  for (let k = 0; k < 8; k += 1) {
    const { target, param } = dice.of(aims)
    const value = valueFor(param, dice)
    // Moving what is set only is rare and heavy: some of it.
    if (value !== undefined && (!param.setOnly || dice.chance(0.1))) params[target] = value
  }
  return {
    id: `s${n}`,
    name: `Place ${n}`,
    params: {
      ...params,
      ...(dice.chance(0.5) ? { 'cable:c0': dice.between(-2, 2), 'macro:m0': dice.unit() } : {}),
    },
    ...(dice.chance(0.4) ? { over: dice.between(0.01, 0.2) } : {}),
    ...(dice.chance(0.3) ? { bypass: { amp: dice.chance(0.5) } } : {}),
    ...(dice.chance(0.3) ? { data: { 'steps.a': Array.from({ length: 4 }, () => dice.below(24)) } } : {}),
    ...(dice.chance(0.3) ? { scope: [dice.of(aims).target, 'amp'] } : {}),
    ...(dice.chance(0.3) ? { fire: { note: 36 + dice.below(40), length: dice.between(0.01, 0.1) } } : {}),
  }
}

/** A patch with macros on macros, snapshots, controllers and a blend over modules of any type. */
export const playable = (seed: number): Patch => {
  const dice = new Dice(seed)
  const byName = (type: string): ModuleDescription => PUBLIC_MODULES.find((module) => module.type === type)!
  const modules = [
    ...['notes', 'clock', 'steps', 'oscillator', 'amplifier'].map((type) => ({
      id: type === 'amplifier' ? 'amp' : type,
      type: byName(type),
    })),
    ...Array.from({ length: 3 + dice.below(6) }, (_, n) => ({ id: `m${n}`, type: dice.of(TYPES) })),
  ]
  const sources = modules.flatMap(({ id, type }) => type.outputs.map(({ name }) => `${id}.${name}`)),
    ends = modules.flatMap(({ id, type }) => [
      ...type.inputs.map(({ name }) => `${id}.${name}`),
      ...type.params
        .filter((param) => isSignalParam(param) && param.kind === 'number')
        .map(({ name }) => `${id}.${name}`),
    ])
  const aims = aimsOf(modules.filter(({ id }) => id !== 'notes'))
  const movable = aims.filter(({ param }) => !param.setOnly && param.name !== 'max')
  const targets = Array.from({ length: 5 }, () => dice.of(movable)).map(({ target, param }) => {
    const ends =
      param.kind === 'number'
        ? [dice.between(param.min, param.max), dice.between(param.min, param.max)]
        : [0, 1]
    return { param: target, from: ends[0], to: ends[1], curve: dice.between(-1, 1) }
  })
  const value = {
    format: 'ypsilon/patch',
    version: 1,
    name: `Playable ${seed}`,
    seed,
    modules: [
      ...modules.map(({ id, type }) => ({
        id,
        type: type.type,
        params: Object.fromEntries(
          type.params.flatMap((param): [string, ParamValue][] => {
            const chosen = param.name === 'max' || dice.chance(0.2) ? valueFor(param, dice) : undefined
            // Each buffer has a name of its own.
            if (type.shares?.as === 'keeper' && param.name === type.shares.name) return [[param.name, id]]
            return chosen === undefined ? [] : [[param.name, chosen]]
          }),
        ),
      })),
      { id: 'out', type: 'output', params: { level: -18 } },
    ],
    cables: [
      { id: 'c0', from: 'notes.pitch', to: 'oscillator.pitch' },
      { id: 'c1', from: 'oscillator.sine', to: 'amp.in' },
      { id: 'c2', from: 'amp.out', to: 'out.in' },
      { id: 'c3', from: 'clock.div1', to: 'steps.clock' },
      ...Array.from({ length: 4 + dice.below(12) }, (_, n) => ({
        id: `k${n}`,
        from: dice.of(sources),
        to: dice.chance(0.2) ? 'out.in' : dice.of(ends),
        amount: dice.between(-1, 1),
      })),
    ],
    macros: [
      {
        id: 'm0',
        name: 'Outer',
        value: dice.unit(),
        targets: [
          { param: 'macro:m1', from: 0, to: 1 },
          ...targets.slice(0, 2),
          { param: 'cable:c1', from: 0.2, to: 1 },
        ],
      },
      {
        id: 'm1',
        name: 'Inner',
        value: dice.unit(),
        step: dice.chance(0.5) ? 0.25 : 0,
        targets: targets.slice(2),
      },
    ],
    controllers: [
      { target: 'macro:m0', controller: 74, pickup: dice.chance(0.5) },
      { target: dice.of(movable).target, source: { kind: 'bend' }, mode: dice.of(['absolute', 'scaled']) },
      {
        target: dice.of(movable).target,
        controller: 20,
        mode: 'relative',
        encoding: dice.of(['twos', 'offset', 'sign']),
      },
    ],
    snapshots: [0, 1, 2].map((n) => snapshotOf(aims, dice, n)),
    stage: {
      items: [
        {
          id: 'b',
          kind: 'blend',
          marks: [0, 1, 2].map((n) => ({ snapshot: `s${n}`, x: n / 2, y: n === 1 ? 1 : 0 })),
        },
      ],
    },
  }
  const result = checkPatch(value)
  if (result.ok) return result.value
  throw new Error(result.faults.map(faultText).join('\n'))
}

/** Something a player may do, anything. */
const anyEvent = (patch: Patch, dice: Dice): Untimed => {
  const note = 30 + dice.below(60)
  const params = patch.modules.flatMap((module) =>
    (PUBLIC_MODULES.find(({ type }) => type === module.type)?.params ?? []).flatMap((param) => {
      const value = param.setOnly || param.name === 'max' ? undefined : valueFor(param, dice)
      return value === undefined ? [] : [{ target: `${module.id}.${param.name}`, value }]
    }),
  )
  const over = dice.chance(0.3) ? { over: dice.between(0, 0.1) } : {}
  const choices: readonly (() => Untimed)[] = [
    () => ({ type: 'on', note, velocity: dice.unit() }),
    () => ({ type: 'on', note, velocity: 1 }),
    () => ({ type: 'off', note }),
    () => ({ type: 'bend', value: dice.between(-1, 1) }),
    () => ({ type: 'pressure', value: dice.unit() }),
    () => ({ type: 'control', controller: dice.of([1, 20, 64, 74]), value: dice.below(128) / 127 }),
    () => ({ type: 'macro', target: dice.of(['m0', 'm1']), value: dice.unit(), ...over }),
    () => ({ type: 'param', ...dice.of(params), ...over }),
    () => ({
      type: 'snapshot',
      target: dice.of(['s0', 's1', 's2']),
      ...(dice.chance(0.3) ? { over: dice.between(0, 0.2) } : {}),
    }),
    () => ({ type: 'blend', target: 'b', x: dice.unit(), y: dice.unit() }),
    () => ({ type: 'data', target: 'steps.a', index: dice.below(8), value: dice.below(24) }),
    () => ({ type: 'bypass', target: 'amp', value: dice.chance(0.5) }),
    () => ({ type: 'tempo', value: dice.between(40, 280) }),
    () => ({ type: 'transport', value: dice.of(['start', 'stop', 'continue'] as const) }),
    () => ({ type: 'silence', ...(dice.chance(0.5) ? { value: false } : {}) }),
  ]
  return dice.of(choices)()
}

const SECONDS = 0.5

/** Edits the document under the player's hands: a value, an amount, a macro, a cable more or less, a module gone. */
const editAtRandom = (live: Live, dice: Dice): void => {
  const { modules, cables } = live.patch
  const module = dice.of(modules)
  const param = (PUBLIC_MODULES.find(({ type }) => type === module.type)?.params ?? []).find(
    ({ setOnly, name }) => !setOnly && name !== 'max' && dice.chance(0.3),
  )
  const value = param && valueFor(param, dice)
  const kind = dice.below(6)
  live.change((draft) => {
    const at = modules.indexOf(module)
    if (kind <= 1 && param && value !== undefined)
      draft.modules[at]!.params = { ...draft.modules[at]!.params, [param.name]: value }
    if (kind === 2) draft.cables[dice.below(cables.length)]!.amount = dice.between(-1, 1)
    if (kind === 3) draft.macros![0]!.value = dice.unit()
    if (kind === 4)
      draft.cables.push({
        id: `x${live.runtime.time}`,
        from: 'clock.phase',
        to: 'out.level',
        amount: dice.unit(),
      })
    if (kind === 5)
      removeModules(
        draft,
        new Set(modules.filter(({ id }) => id === `m${dice.below(6)}`).map(({ id }) => id)),
      )
  })
}

/** Plays anything for a while, all that means something in the patch. */
const playAtRandom = (live: Live, seed: number, edits = false): void => {
  const dice = new Dice(seed ^ 0x77)
  while (live.runtime.time < SECONDS * RATE) {
    if (edits && dice.chance(0.3)) editAtRandom(live, dice)
    const events = Array.from({ length: 1 + dice.below(3) }, () => anyEvent(live.patch, dice)).filter(
      (event) => eventFault(live.patch, { t: 0, ...event } as PlayerEvent) === undefined,
    )
    live.play(...events)
    live.run((128 * (1 + dice.below(12))) / RATE)
  }
}

/** Plays at random on the live engine; what was heard, and the file of it. */
const playedLive = (
  patch: Patch,
  seed: number,
): { out: Float32Array; events: readonly PlayerEvent[]; latency: number } => {
  // A large plan takes the audio thread several blocks; ends of morphs would come that much later than in a render.
  const live = new Live(patch, { stepBytes: 2 ** 24 })
  // A render takes off what the patch holds back at its start.
  const late = live.planner.plan!.latency.samples
  live.performance.recorder = new Recorder({
    patch: '',
    rate: RATE,
    quality: 'live',
    engine: '',
    tempo: 120,
    frame: 0,
    reset: true,
  })
  playAtRandom(live, seed)
  return {
    out: Float32Array.from(live.out),
    events: live.performance.recorder.file().events,
    latency: live.runtime.guardLatency + late,
  }
}

const rendered = (patch: Patch, events: readonly PlayerEvent[], frames: number): Float32Array => {
  const result = render(testKernels(), patch, { events, seconds: frames / RATE })
  if (!result.ok) throw new Error(result.faults.map(faultText).join('\n'))
  return result.value.sound.channels[0]!
}

describe('random playing', () => {
  it('is heard live as it renders, twice the same, and never breaks', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const patch = playable(seed)
        const { out, events, latency } = playedLive(patch, seed)
        expect(out.every(Number.isFinite)).toBe(true)
        const frames = out.length - latency
        const offline = rendered(patch, events, frames)
        const differs = offline.findIndex((x, n) => x !== out[n + latency])
        expect(differs).toBe(-1)
        expect(rendered(patch, events, frames)).toEqual(offline)
      }),
      { numRuns: 25, seed: 11 },
    )
  }, 240_000)

  it('ends where it says it is: every value, setting and amount is what is heard, edits and all', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const live = new Live(playable(seed), { stepBytes: 2 ** 24 })
        playAtRandom(live, seed, true)
        live.run(0.4)
        expect(live.performance.nextFrame).toBeUndefined()
        const heard = compile(live.performance.heard())
        if (!heard.ok) throw new Error(heard.faults.map(faultText).join('\n'))
        for (const { key, base } of heard.plan.params) {
          const address = live.layout.paramAddress(key)
          expect([key, address === undefined ? NaN : live.runtime.f32(address)]).toEqual([
            key,
            Math.fround(base),
          ])
        }
        for (const { terms } of heard.plan.adapters)
          for (const { cable, amount, scale } of terms)
            for (const term of cable === undefined ? [] : live.layout.termAddresses(cable))
              if (term.scale === scale)
                expect([cable, live.runtime.f32(term.address + TERM_AMOUNT)]).toEqual([
                  cable,
                  Math.fround(amount),
                ])
        for (const { id, type, settings } of heard.plan.modules)
          for (const [slot, value, whole] of settings) {
            const name = [...CATALOGUE.get(type)!.slots.settings].find(([, at]) => at === slot)![0]
            const { address } = live.layout.settingAddress(`${id}.${name}`)!
            const now = whole ? live.runtime.u32(address) : live.runtime.f32(address)
            expect([id, name, now]).toEqual([id, name, whole ? value : Math.fround(value)])
          }
      }),
      { numRuns: 60, seed: 23 },
    )
  }, 120_000)

  it('begins the same however long it goes on', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const patch = playable(seed)
        const { events, latency } = playedLive(patch, seed)
        const half = events.filter(({ t }) => t < SECONDS / 2)
        const frames = Math.round((SECONDS / 2) * RATE),
          // What is done behind everything late is heard so much before its time, and the guard looks ahead.
          alike = frames - latency
        expect(rendered(patch, half, frames).slice(0, alike)).toEqual(
          rendered(patch, events, 2 * frames).slice(0, alike),
        )
      }),
      { numRuns: 12, seed: 5 },
    )
  }, 120_000)
})
