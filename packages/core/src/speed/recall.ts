/** What recalling many values at once costs. */
import type { Patch } from '../patch/types.ts'
import { Playback } from '../perform/playback.ts'
import { BLOCK, middle, patchFrom, RATE } from './measure.ts'

export interface RecallCost {
  /** Shares of the time a block lasts: what the page works out, what the audio thread takes in, and what a block costs more while 500 values move. */
  readonly worked: number
  readonly taken: number
  readonly moving: number
}

const VOICES = 100,
  RECALLS = 40

/** Five values of each of a hundred voices, in two snapshots. */
const recalledPatch = (): Patch => {
  const names = Array.from({ length: VOICES }, (_, n) => n)
  const params = (scale: number): Record<string, number> =>
    Object.fromEntries(
      names.flatMap((n) => [
        [`o${n}.fine`, 20 * scale],
        [`f${n}.cutoff`, 3000 * scale],
        [`f${n}.resonance`, 0.5 * scale],
        [`a${n}.level`, -3 * scale],
        [`cable:k${n}`, 0.02 * scale],
      ]),
    )
  return patchFrom({
    format: 'ypsilon/patch',
    version: 1,
    modules: [
      ...names.flatMap((n) => [
        { id: `o${n}`, type: 'oscillator' },
        { id: `f${n}`, type: 'filter' },
        { id: `a${n}`, type: 'amplifier' },
      ]),
      { id: 'out', type: 'output' },
    ],
    cables: names.flatMap((n) => [
      { from: `o${n}.saw`, to: `f${n}.in` },
      { from: `f${n}.low`, to: `a${n}.in` },
      { id: `k${n}`, from: `a${n}.out`, to: 'out.in', amount: 0.01 },
    ]),
    snapshots: [
      { id: 's', name: 'One', params: params(1) },
      { id: 't', name: 'Other', params: params(0.5) },
    ],
  })
}

/** 500 values of a patch of 301 modules, recalled again and again: medians. */
export const recallCost = (kernels: WebAssembly.Module, now: () => number): RecallCost => {
  const playback = new Playback(kernels, recalledPatch(), [], { sampleRate: RATE })
  playback.begin()
  const { runtime, performance } = playback
  const left = new Float32Array(BLOCK),
    right = new Float32Array(BLOCK)
  const block = (): number => {
    const start = now()
    runtime.process(left, right, 0, BLOCK)
    return now() - start
  }
  const worked: number[] = [],
    taken: number[] = [],
    moving: number[] = [],
    still: number[] = []
  for (let n = 0; n < RECALLS; n += 1) {
    const start = now()
    performance.play({ t: 0, type: 'snapshot', target: n % 2 ? 's' : 't' }, runtime.time)
    const steps = performance.flush(runtime.time)
    const made = now()
    for (const step of steps)
      if (step.kind === 'events') for (const event of step.events) runtime.send({ event })
    worked.push(made - start)
    taken.push(now() - made)
    for (let k = 0; k < 5; k += 1) moving.push(block())
    for (let k = 0; k < 20; k += 1) block()
    for (let k = 0; k < 5; k += 1) still.push(block())
  }
  const length = BLOCK / RATE
  return {
    worked: middle(worked) / length,
    taken: middle(taken) / length,
    moving: Math.max(0, middle(moving) - middle(still)) / length,
  }
}
