import type { Delta } from './delta.ts'
import type { WasmMemory } from './wasm-memory.ts'

interface Staging {
  readonly delta: Delta
  zero: number
  zeroAt: number
  write: number
  writeAt: number
}

/**
 * Writes plans beside the one that runs, some bytes in each block, and keeps what comes after a plan until that runs.
 * `Other`: everything that is no plan.
 */
export class Stager<Other extends object> {
  private staging: Staging | undefined
  private readonly waiting: (Delta | Other)[] = []

  constructor(
    private readonly memory: WasmMemory,
    private readonly isPlan: (item: Delta | Other) => item is Delta,
    private readonly does: (item: Other) => void,
    private readonly swap: (delta: Delta) => void,
  ) {}

  get isBusy(): boolean {
    return this.staging !== undefined || this.waiting.length > 0
  }

  /** Takes a plan or something else, in order. */
  send(item: Delta | Other): void {
    if (this.isBusy || this.isPlan(item)) this.waiting.push(item)
    else this.does(item)
  }

  /** Carries on by at most `budget` bytes; swaps when a plan is complete, and goes on with what waits behind. */
  stage(budget: number): void {
    let left = budget
    while (this.isBusy) {
      this.staging ??= this.nextStaging()
      if (!this.staging) return
      left = this.copySome(this.staging, left)
      const { delta, zero, write } = this.staging
      if (zero < delta.zero.length || write < delta.writes.length) return
      this.staging = undefined
      this.swap(delta)
    }
  }

  /** Does what waits up to the next plan, and begins to stage that. */
  private nextStaging(): Staging | undefined {
    for (let item = this.waiting.shift(); item; item = this.waiting.shift()) {
      if (this.isPlan(item)) {
        this.memory.grow(item.memoryBytes)
        return { delta: item, zero: 0, zeroAt: 0, write: 0, writeAt: 0 }
      }
      this.does(item)
    }
    return undefined
  }

  /** Clears and writes beside what runs, no more than `budget` bytes; what is left of the budget. */
  private copySome(s: Staging, budget: number): number {
    const { zero, writes, bytes } = s.delta,
      memory = this.memory.bytes
    let left = budget
    while (s.zero < zero.length && left > 0) {
      const address = zero[s.zero]!,
        size = zero[s.zero + 1]!
      const count = Math.min(left, size - s.zeroAt)
      memory.fill(0, address + s.zeroAt, address + s.zeroAt + count)
      left -= count
      s.zeroAt += count
      if (s.zeroAt >= size) {
        s.zero += 2
        s.zeroAt = 0
      }
    }
    while (s.zero >= zero.length && s.write < writes.length && left > 0) {
      const offset = writes[s.write + 1]!,
        size = writes[s.write + 2]!
      memory.set(bytes.subarray(offset, offset + size), writes[s.write]!)
      left -= size
      s.write += 3
    }
    return left
  }
}
