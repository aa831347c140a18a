/** Memory of a plan: what lasts under its key from plan to plan, and what belongs to one plan only. */
import { type Block, Memory } from './memory.ts'
import type { PlanModule } from '../compile/plan.ts'
import { append } from '../units/append.ts'
import type { Work } from './delta.ts'

export interface Kept {
  readonly block: Block
  readonly groups: number
  readonly bytesPerGroup: number
}

/** Under which state and further memory of a module last. */
export const memoryKey = ({ id, stateOf, type, sides }: PlanModule): string =>
  `m:${stateOf ?? id}:${type}:${sides}`

/** At the swap: what a block holds goes into another of the same size. */
export const copyOver = (from: Kept | undefined, to: Kept | undefined, work: Work): void => {
  if (from && to && from.bytesPerGroup === to.bytesPerGroup && from.groups === to.groups)
    work.copy.push([from.block.address, to.block.address, from.bytesPerGroup * from.groups])
}

export class Keeping {
  private readonly memory: Memory
  private kept = new Map<string, Kept>()
  private last: ReadonlyMap<string, Kept> = new Map()
  /** Blocks of the running plan only. */
  private passing: Block[] = []
  private passed: Block[] = []
  /** Given back when the next plan comes: the audio side has left them by then. */
  private doomed: Block[] = []
  private watched = new Map<string, Block>()
  private watchedRight = new Map<string, Block>()
  private readonly tables = new Map<Float32Array, Block>()

  constructor(heapBase: number) {
    this.memory = new Memory(heapBase)
  }

  get inUse(): number {
    return this.memory.highWater - this.memory.freeBytes
  }
  get highWater(): number {
    return this.memory.highWater
  }

  /** What is kept under a key by now. */
  at(key: string): Kept | undefined {
    return this.kept.get(key)
  }
  /** What was kept under a key by the plan before. */
  before(key: string): Kept | undefined {
    return this.last.get(key)
  }
  blockOf(module: PlanModule): number {
    return this.kept.get(`a:${memoryKey(module)}`)!.block.address
  }

  begin(): void {
    for (const block of this.doomed) this.memory.release(block)
    this.doomed = []
    this.last = this.kept
    this.kept = new Map()
    this.passed = this.passing
    this.passing = []
  }

  /** Everything is placed: what the plan before had and this one has not will be given back. */
  end(work: Work): void {
    for (const [key, { block }] of this.last) if (!this.kept.has(key)) this.doomed.push(block)
    for (const [table, block] of this.tables)
      if (!work.tables.has(table)) {
        this.doomed.push(block)
        this.tables.delete(table)
      }
    append(this.doomed, this.passed)
    append(this.doomed, work.replaced)
  }

  /** Memory that belongs to this plan only. */
  take(bytes: number, work: Work): Block {
    const block = this.memory.allocate(bytes)
    this.passing.push(block)
    if (block.dirty) work.zero.push([block.address, block.bytes])
    return block
  }

  /** Memory that lasts as long as its key does; `fresh` when there was none of this size before. */
  keep(key: string, bytesPerGroup: number, groups: number, work: Work): { address: number; fresh: boolean } {
    const old = this.last.get(key)
    if (old && old.bytesPerGroup === bytesPerGroup && old.groups === groups) {
      this.kept.set(key, old)
      return { address: old.block.address, fresh: false }
    }
    const block = this.memory.allocate(bytesPerGroup * groups)
    if (block.dirty) work.zero.push([block.address, block.bytes])
    this.kept.set(key, { block, groups, bytesPerGroup })
    if (old) {
      // Another number of voices: those that remain keep their state.
      if (old.bytesPerGroup === bytesPerGroup)
        work.copy.push([old.block.address, block.address, bytesPerGroup * Math.min(groups, old.groups)])
      work.replaced.push(old.block)
    }
    return { address: block.address, fresh: true }
  }

  /** A table is written once for all modules that read the same. */
  table(table: Float32Array, work: Work): number {
    let block = this.tables.get(table)
    if (!block) {
      block = this.memory.allocate(table.byteLength)
      work
        .image(block.address, table.byteLength)
        .bytes.set(new Uint8Array(table.buffer, table.byteOffset, table.byteLength))
      this.tables.set(table, block)
    }
    work.tables.add(table)
    return block.address
  }

  /** A ring for a watched signal: 512 floats, then min, max, last. The right side of one has a ring of its own. */
  watchRing(key: string, side: 'left' | 'right' = 'left'): number {
    const rings = side === 'left' ? this.watched : this.watchedRight
    let block = rings.get(key)
    if (!block) {
      block = this.memory.allocate(2064)
      rings.set(key, block)
    }
    return block.address
  }
  unwatch(key: string): void {
    for (const rings of [this.watched, this.watchedRight]) {
      const ring = rings.get(key)
      if (ring) this.memory.release(ring)
      rings.delete(key)
    }
  }
  isWatched(key: string): boolean {
    return this.watched.has(key)
  }
}
