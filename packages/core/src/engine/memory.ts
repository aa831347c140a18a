/** Keeps the books of the wasm memory on the host's side: nothing is allocated in the audio thread. */
const ALIGN = 16
/** Requests of zeroed memory above this prefer pages never used, which are zero already. */
const LARGE = 2 ** 18
const FRESH_UP_TO = 2 ** 29

export interface Block {
  readonly address: number
  readonly bytes: number
  /** Must be zeroed before use. */ readonly dirty: boolean
}

const rounded = (bytes: number): number => Math.max(ALIGN, Math.ceil(bytes / ALIGN) * ALIGN)

export class Memory {
  /** Free blocks below the high-water mark, by address. */
  private free: { address: number; bytes: number }[] = []
  private top: number

  constructor(base: number) {
    this.top = rounded(base)
  }

  /** Bytes in use or handed back below the high-water mark. */
  get highWater(): number {
    return this.top
  }
  get freeBytes(): number {
    return this.free.reduce((sum, block) => sum + block.bytes, 0)
  }

  allocate(bytes: number): Block {
    const size = rounded(bytes)
    const preferFresh = size > LARGE && this.top + size < FRESH_UP_TO
    const at = preferFresh ? -1 : this.free.findIndex((block) => block.bytes >= size)
    if (at >= 0) {
      const block = this.free[at]!
      const { address } = block
      if (block.bytes === size) this.free.splice(at, 1)
      else {
        block.address += size
        block.bytes -= size
      }
      return { address, bytes: size, dirty: true }
    }
    const address = this.top
    this.top += size
    return { address, bytes: size, dirty: false }
  }

  release(block: Block): void {
    let at = this.free.findIndex((other) => other.address > block.address)
    if (at < 0) at = this.free.length
    this.free.splice(at, 0, { address: block.address, bytes: block.bytes })
    const merge = (index: number): void => {
      const a = this.free[index],
        b = this.free[index + 1]
      if (!a || !b || a.address + a.bytes !== b.address) return
      a.bytes += b.bytes
      this.free.splice(index + 1, 1)
    }
    merge(at)
    merge(at - 1)
  }
}
