/** Keeps sound in a file while it is worked on: an hour takes no more memory than a minute. */
import { randomUUID } from 'node:crypto'
import { closeSync, openSync, readSync, unlinkSync, writeSync } from 'node:fs'
import { join } from 'node:path'
import { bounded, type Spool, type Tape } from '@ypsilon/core/takes/tape.ts'

/** One channel behind the other in every piece: read by pieces of any length. */
export class FileSpool implements Spool {
  private readonly handle: number
  /** Where each piece begins, in frames; the last entry is the end. */
  private readonly starts = [0]

  constructor(
    private readonly rate: number,
    private readonly channels: number,
    folder: string,
  ) {
    // Threads of one process open them at the same moment.
    const file = join(folder, `${randomUUID()}.spool`)
    this.handle = openSync(file, 'wx+')
    // Nobody else needs its name, and so nothing is left of it whatever happens.
    unlinkSync(file)
    spools.register(this, this.handle)
  }

  write(channels: readonly Float32Array[], frames: number): Promise<void> {
    const start = this.starts.at(-1)!
    channels.forEach((channel, n) => {
      const bytes = new Uint8Array(channel.buffer, channel.byteOffset, 4 * frames),
        at = 4 * (start * this.channels + n * frames)
      for (let done = 0; done < bytes.length;)
        done += writeSync(this.handle, bytes, done, bytes.length - done, at + done)
    })
    this.starts.push(start + frames)
    return Promise.resolve()
  }

  end(): Promise<Tape> {
    const { rate, channels } = this,
      frames = this.starts.at(-1)!
    return Promise.resolve({
      rate,
      channels,
      frames,
      read: (from, to) => bounded(frames, from, to, (first, last) => Promise.resolve(this.read(first, last))),
    })
  }

  /** The piece a frame is in. */
  private pieceAt(frame: number): number {
    let low = 0,
      high = this.starts.length - 2
    while (low < high) {
      const middle = (low + high + 1) >> 1
      if (this.starts[middle]! <= frame) low = middle
      else high = middle - 1
    }
    return low
  }

  private read(from: number, to: number): Float32Array[] {
    const out = Array.from({ length: this.channels }, () => new Float32Array(to - from))
    for (let at = from; at < to;) {
      const piece = this.pieceAt(at),
        start = this.starts[piece]!,
        length = this.starts[piece + 1]! - start,
        until = Math.min(to, start + length)
      out.forEach((channel, n) => {
        const bytes = new Uint8Array(channel.buffer, 4 * (at - from), 4 * (until - at)),
          place = 4 * (start * this.channels + n * length + at - start)
        for (let done = 0; done < bytes.length;) {
          const read = readSync(this.handle, bytes, done, bytes.length - done, place + done)
          if (read === 0) throw new Error('what was kept is shorter than it was')
          done += read
        }
      })
      at = until
    }
    return out
  }
}

const spools = new FinalizationRegistry<number>((handle) => {
  closeSync(handle)
})
