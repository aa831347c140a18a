/** What live playing asks of the engine: edits while it plays, and how soon a key is heard. */
import { Engine } from '../engine/engine.ts'
import type { Cable, Patch } from '../patch/types.ts'
import { Dice } from '../units/dice.ts'
import { Live } from '../testing/live.ts'
import { checkPatch } from '../patch/validate.ts'
import { largePatch } from './suite.ts'
import { V16 } from './v16.ts'

const RATE = 48000,
  BLOCK = 128
const EDITS = 1000,
  MODULES = 60

export interface EditCost {
  /** Milliseconds to make what is sent, beside the audio thread: median and 99 %. */
  readonly made: readonly [median: number, most: number]
  /** Shares of the time a block lasts: usual (median), after an edit (median, 99 %, worst). */
  readonly usual: number
  readonly edited: readonly [median: number, most: number, worst: number]
  /** Blocks after an edit that took longer than they last, and as many others that did. */
  readonly late: readonly [edited: number, others: number]
}

const at = (times: readonly number[], share: number): number =>
  [...times].sort((a, b) => a - b)[Math.floor(share * (times.length - 1))]!

/** 1,000 edits of structure and values in a patch of 60 modules that plays. */
export const editCost = (kernels: WebAssembly.Module, now: () => number): EditCost => {
  const dice = new Dice(2026)
  const live = new Live(largePatch(MODULES), { kernels })
  live.play(...[0, 1, 2, 3].map((n) => ({ type: 'on' as const, note: 48 + 5 * n, velocity: 0.8, id: n + 1 })))
  const first = live.patch.cables.length
  const made: number[] = [],
    usual: number[] = [],
    edited: number[] = []
  const timed = (into: number[]): void => {
    const left = new Float32Array(BLOCK),
      right = new Float32Array(BLOCK)
    for (let n = 0; n < 3; n += 1) {
      const start = now()
      live.runtime.process(left, right, 0, BLOCK)
      into.push(now() - start)
    }
    // What is made beside the audio thread is not counted here.
    live.run((3 * BLOCK) / RATE)
  }
  live.run(0.2)
  for (let edit = 0; edit < EDITS; edit += 1) {
    const start = now()
    live.change((draft) => {
      const module = 1 + dice.below(MODULES - 2),
        added = draft.cables.length - first
      const cable: Cable = {
        id: `e${edit}`,
        from: 'notes.velocity',
        to: `m${module}.level`,
        amount: 0.1 + dice.below(10) / 20,
      }
      const found = draft.modules.find(({ id }) => id === `m${module}`)!
      if (edit % 5 === 4 && added > 0) draft.cables.splice(first + dice.below(added), 1)
      else if (edit % 5 === 3) draft.cables[dice.below(draft.cables.length)]!.amount = dice.below(10) / 10
      else if (edit % 5 === 2)
        draft.modules.push({ id: `x${edit}`, type: 'filter', params: { cutoff: 900 } } as never)
      else if (edit % 5 === 1) draft.modules = draft.modules.filter(({ id }) => !id.startsWith('x'))
      else if (['oscillator', 'amplifier', 'lfo'].includes(found.type)) draft.cables.push(cable as never)
    })
    made.push((now() - start) * 1000)
    timed(edited)
    timed(usual)
  }
  const length = BLOCK / RATE
  const late = (times: readonly number[]): number => times.filter((time) => time > length).length
  return {
    made: [at(made, 0.5), at(made, 0.99)],
    usual: at(usual, 0.5) / length,
    edited: [at(edited, 0.5) / length, at(edited, 0.99) / length, at(edited, 1) / length],
    late: [late(edited), late(usual)],
  }
}

/** Frames between a key that arrives before a block and the first sample at the output that it changes. */
export const keyToSound = (kernels: WebAssembly.Module): number => {
  const result = checkPatch({
    format: 'ypsilon/patch',
    version: 1,
    modules: [
      { id: 'n', type: 'notes' },
      { id: 'o', type: 'oscillator' },
      { id: 'e', type: 'envelope', params: { attack: 0 } },
      { id: 'a', type: 'amplifier' },
      { id: 'out', type: 'output' },
    ],
    cables: [
      { from: 'n.pitch', to: 'o.pitch' },
      { from: 'n.gate', to: 'e.gate' },
      { from: 'o.saw', to: 'a.in' },
      { from: 'e.env', to: 'a.cv' },
      { from: 'a.out', to: 'out.in' },
    ],
  })
  if (!result.ok) throw new Error(result.faults[0]!.message)
  const engine = new Engine(kernels, RATE)
  engine.apply(result.value)
  const left = new Float32Array(BLOCK),
    right = new Float32Array(BLOCK)
  for (let n = 0; n < 50; n += 1) engine.runtime.process(left, right, 0, BLOCK)
  engine.runtime.send({ event: { type: 'on', note: 60, velocity: 1, id: 1 } })
  for (let frame = 0; frame < RATE; frame += BLOCK) {
    engine.runtime.process(left, right, 0, BLOCK)
    const found = left.findIndex((x) => x !== 0)
    if (found >= 0) return frame + found
  }
  return Infinity
}

/** `copies` times the patch V16 in one, each with notes of its own: all play whatever is played. */
export const copiesOfV16 = (copies: number): Patch => {
  const modules = Array.from({ length: copies }, (_, copy) =>
    V16.modules.map((module) => ({ ...module, id: `${module.id}_${copy}` })),
  ).flat()
  const cables = Array.from({ length: copies }, (_, copy) =>
    V16.cables.map((cable) => {
      const end = (target: string): string => target.replace('.', `_${copy}.`)
      return { ...cable, from: end(cable.from), to: end(cable.to) }
    }),
  ).flat()
  const result = checkPatch({ ...V16, modules, cables })
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return result.value
}
