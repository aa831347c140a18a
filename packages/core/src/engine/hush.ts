/** Everything silent at once: fades out, waits until somebody plays again, and fades in. */
const OUT_SECONDS = 0.01
const IN_SECONDS = 0.003

/** The gain behind the guard while silence lasts, and how far the clearing of what sounded has come. */
export class Hush {
  /** Frame at which the fade out begins, and at which the fade in begins; none where there is none. */
  private from: number | undefined
  private until: number | undefined
  private clearedTo = 0
  private readonly outFrames: number
  private readonly inFrames: number

  constructor(
    sampleRate: number,
    /** What is heard now was made so many frames ago. */
    private readonly latency: number,
  ) {
    this.outFrames = Math.max(1, Math.round(OUT_SECONDS * sampleRate))
    this.inFrames = Math.max(1, Math.round(IN_SECONDS * sampleRate))
  }

  get isOn(): boolean {
    return this.from !== undefined
  }
  get isSilent(): boolean {
    return this.from !== undefined && this.until === undefined
  }

  begin(frame: number): void {
    if (this.from === undefined) this.from = frame + this.latency
    this.until = undefined
    this.clearedTo = 0
  }

  end(frame: number): void {
    if (this.isSilent) this.until = Math.max(frame + this.latency, this.from! + this.outFrames)
  }

  gainAt(frame: number): number {
    const { from, until, outFrames, inFrames } = this
    if (from === undefined || frame < from) return 1
    if (until === undefined || frame < until) return Math.max(0, 1 - (frame - from) / outFrames)
    return Math.min(1, (frame - until) / inFrames)
  }

  /** Time has come to this frame: a fade in that is over is forgotten. */
  passed(frame: number): void {
    if (this.until === undefined || frame < this.until + this.inFrames) return
    this.from = undefined
    this.until = undefined
  }

  /** How much is cleared already; undefined while it is not silent yet. */
  clearingFrom(frame: number): number | undefined {
    return this.from !== undefined && frame >= this.from + this.outFrames ? this.clearedTo : undefined
  }
  cleared(to: number): void {
    this.clearedTo = to
  }
  /** Another plan plays: while it is silent what that holds is cleared as well. */
  again(): void {
    this.clearedTo = this.isSilent ? 0 : Infinity
  }
}
