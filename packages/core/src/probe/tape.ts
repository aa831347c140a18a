/** The last seconds of a signal, put together from pieces as they come. */

/** Seconds that are kept: as many as a decay is measured over. */
export const TAPE_SECONDS = 8

export class Tape {
  private rings: Float32Array[]
  private readonly length: number
  /** Frames that have come since the tape is new. */
  private count = 0
  /** Where the next piece begins, if none is lost. */
  private next: number | undefined

  constructor(
    readonly rate: number,
    seconds = TAPE_SECONDS,
  ) {
    this.length = Math.max(1, Math.round(seconds * rate))
    this.rings = []
  }

  get frames(): number {
    return Math.min(this.count, this.length)
  }
  get sides(): number {
    return this.rings.length
  }
  /** Frames since the tape is new. */
  get position(): number {
    return this.count
  }

  /** What was kept is another signal's. */
  clear(): void {
    this.rings = []
    this.count = 0
    this.next = undefined
  }

  /**
   * The next frames by side, `from` on the engine's clock. What comes again is left out, and after a gap the tape is new:
   * what lies on both sides of it is not one sound. True where it was begun anew.
   */
  take(channels: readonly Float32Array[], from?: number): boolean {
    const frames = channels[0]?.length ?? 0
    if (frames === 0) return false
    if (from !== undefined && this.next !== undefined && from < this.next && from + frames >= this.next)
      return false
    const isNew = this.rings.length !== channels.length || (from !== undefined && from !== this.next)
    if (isNew) {
      this.clear()
      this.rings = channels.map(() => new Float32Array(this.length))
    }
    this.rings.forEach((ring, side) => {
      const piece = channels[side]!.subarray(Math.max(0, frames - this.length))
      const at = (this.count + frames - piece.length) % this.length,
        first = Math.min(piece.length, this.length - at)
      ring.set(piece.subarray(0, first), at)
      ring.set(piece.subarray(first), 0)
    })
    this.count += frames
    this.next = from === undefined ? undefined : from + frames
    return isNew
  }

  /** The last frames by side, as many as there are. */
  last(frames: number): Float32Array[] {
    return this.stretch(this.count - Math.min(frames, this.frames), this.count)
  }

  /** Frames from one position to another, counted since the tape is new; what is not kept any more is left out. */
  stretch(from: number, to: number): Float32Array[] {
    const start = Math.max(from, this.count - this.frames),
      size = Math.max(0, Math.min(to, this.count) - start)
    return this.rings.map((ring) => {
      const piece = new Float32Array(size),
        at = start % this.length,
        first = Math.min(size, this.length - at)
      piece.set(ring.subarray(at, at + first))
      piece.set(ring.subarray(0, size - first), first)
      return piece
    })
  }
}
