import * as abi from '../kernels/abi.ts'
import type { Kernels } from './kernel-exports.ts'

/** Output pairs there are. */
const PAIRS = [0, 1, 2, 3]

/** The engine's memory as the host sees it. Views come loose when it grows, so they are asked for here. */
export class WasmMemory {
  bytes!: Uint8Array
  words!: Uint32Array
  floats!: Float32Array
  /** Where both sides of every output pair leave. */
  planes!: readonly (readonly [left: Float32Array, right: Float32Array])[]

  constructor(private readonly kernels: Kernels) {
    this.view()
  }

  private view(): void {
    const { buffer } = this.kernels.memory
    this.bytes = new Uint8Array(buffer)
    this.words = new Uint32Array(buffer)
    this.floats = new Float32Array(buffer)
    const plane = (pair: number, side: number): Float32Array =>
      new Float32Array(buffer, this.kernels.planeOf(pair) + side * 4 * abi.BLOCK_FRAMES, abi.BLOCK_FRAMES)
    this.planes = PAIRS.map((pair) => [plane(pair, 0), plane(pair, 1)] as const)
  }

  /** Makes sure it is at least this large. */
  grow(bytes: number): void {
    const missing = Math.ceil((bytes - this.bytes.length) / 65536)
    if (missing <= 0) return
    this.kernels.memory.grow(missing)
    this.view()
  }
}
