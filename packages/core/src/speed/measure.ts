/** What all measurements share. */
import { Engine } from '../engine/engine.ts'
import type { Patch } from '../patch/types.ts'
import { checkPatch } from '../patch/validate.ts'

export const RATE = 48000
export const BLOCK = 128

export const middle = (list: number[]): number => list.sort((a, b) => a - b)[list.length >> 1]!

export const timeOf = (work: () => unknown, now: () => number): number => {
  const start = now()
  work()
  return now() - start
}

export const patchFrom = (value: unknown): Patch => {
  const result = checkPatch(value)
  if (!result.ok) throw new Error(result.faults.map((fault) => `${fault.place}: ${fault.message}`).join('\n'))
  return result.value
}

/** Renders `seconds` of a patch in blocks; seconds of sound per second of work. `play` starts and stops notes. */
export const timesRealTime = (
  kernels: WebAssembly.Module,
  value: unknown,
  seconds: number,
  now: () => number,
  play?: (engine: Engine, block: number) => void,
): number => {
  const engine = new Engine(kernels, RATE)
  const applied = engine.apply(patchFrom(value))
  if (!applied.ok) throw new Error(applied.faults[0]!.message)
  const left = new Float32Array(BLOCK),
    right = new Float32Array(BLOCK)
  const run = (blocks: number): void => {
    for (let block = 0; block < blocks; block += 1) {
      play?.(engine, block)
      engine.runtime.process(left, right, 0, BLOCK)
    }
  }
  run(400)
  const start = now()
  run((seconds * RATE) / BLOCK)
  return seconds / (now() - start)
}
