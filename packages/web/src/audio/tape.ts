/** Records what goes out, in the audio thread: in pieces, faded where it is cut in the middle of a sound. */

export const PIECE_FRAMES = 4096
/** How long a cut fades. */
const FADE_SECONDS = 0.005
/** Below this nothing was sounding yet: −80 dB. */
const SOUNDING = 1e-4

export interface Piece {
  readonly left: Float32Array<ArrayBuffer>
  readonly right: Float32Array<ArrayBuffer>
  readonly isLast: boolean
}

/** Half a cosine: no corner at either end. */
const rise = (position: number): number => 0.5 - 0.5 * Math.cos(Math.PI * position)

export class Tape {
  private left = new Float32Array(PIECE_FRAMES)
  private right = new Float32Array(PIECE_FRAMES)
  private filled = 0
  private readonly fadeFrames: number
  /** Frames left of a fade in and of a fade out. */
  private rising = 0
  private falling = -1
  private hasBegun = false

  constructor(
    rate: number,
    private readonly give: (piece: Piece) => void,
  ) {
    this.fadeFrames = Math.round(FADE_SECONDS * rate)
  }

  /** The end was asked for: what follows fades out, then the last piece is given. */
  stop(): void {
    if (this.falling < 0) this.falling = this.fadeFrames
  }

  /** Takes a block; false when the tape is at its end. */
  take(left: Float32Array, right: Float32Array): boolean {
    if (!this.hasBegun) {
      this.hasBegun = true
      if (Math.max(Math.abs(left[0]!), Math.abs(right[0]!)) > SOUNDING) this.rising = this.fadeFrames
    }
    for (let f = 0; f < left.length; f += 1) {
      if (this.falling === 0) {
        this.send(true)
        return false
      }
      const gain = this.gain()
      this.left[this.filled] = left[f]! * gain
      this.right[this.filled] = right[f]! * gain
      this.filled += 1
      if (this.filled === PIECE_FRAMES) this.send(false)
    }
    return true
  }

  private gain(): number {
    let gain = 1
    if (this.rising > 0) {
      gain = rise(1 - this.rising / this.fadeFrames)
      this.rising -= 1
    }
    if (this.falling > 0) {
      this.falling -= 1
      gain *= rise(this.falling / this.fadeFrames)
    }
    return gain
  }

  private send(isLast: boolean): void {
    const { left, right, filled } = this
    this.left = new Float32Array(PIECE_FRAMES)
    this.right = new Float32Array(PIECE_FRAMES)
    this.filled = 0
    this.give(
      filled === PIECE_FRAMES
        ? { left, right, isLast }
        : { left: left.slice(0, filled), right: right.slice(0, filled), isLast },
    )
  }
}

/** Fades the end of a sound that broke off. */
export const fadeEnd = (channels: readonly Float32Array[], rate: number): void => {
  const frames = Math.min(channels[0]?.length ?? 0, Math.round(FADE_SECONDS * rate))
  for (const channel of channels)
    for (let f = 0; f < frames; f += 1) channel[channel.length - frames + f]! *= rise(1 - (f + 1) / frames)
}
