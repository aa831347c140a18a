/** Clock messages in a quarter note. */
const TICKS_PER_BEAT = 24
/** How much of each tick's lateness is believed: of its place, and of the tempo. A second-order loop, critically damped. */
const PLACE_SHARE = 0.12
const TEMPO_SHARE = PLACE_SHARE * PLACE_SHARE * 0.25
/** The first ticks are believed more, to get there soon. */
const LEARNING_TICKS = 12
/** Without a tick for so many periods the clock has stopped. */
const PATIENCE = 8

/** A straight line of beats: `beats` at `frame`, going on by `perFrame`. */
export interface BeatLine {
  readonly beats: number
  readonly perFrame: number
  readonly frame: number
  readonly running: boolean
}

/**
 * Follows clock messages from outside through their jitter: a phase-locked loop over the frames of the ticks. Its beats
 * never jump and never run back: each tick only bends the line towards where the next one is expected.
 */
export class ExternalClock {
  private count = 0
  private place = 0
  private period = 0
  private line: BeatLine = { beats: 0, perFrame: 0, frame: 0, running: false }
  private pendingStart = false
  /** Starts so far, so that followers can begin anew. */
  starts = 0

  constructor(private readonly sampleRate: number) {}

  private beatsAt(frame: number): number {
    return this.line.beats + (frame - this.line.frame) * this.line.perFrame
  }

  start(frame: number): BeatLine {
    this.count = 0
    this.pendingStart = true
    this.starts += 1
    return (this.line = { beats: 0, perFrame: 0, frame, running: false })
  }
  stop(frame: number): BeatLine {
    return (this.line = { beats: this.beatsAt(frame), perFrame: 0, frame, running: false })
  }
  resume(frame: number): BeatLine {
    return (this.line = { ...this.line, frame, running: true })
  }

  tick(frame: number): BeatLine {
    if (!this.pendingStart && this.count === 0 && this.starts === 0) this.starts += 1
    this.pendingStart = false
    if (this.count === 0) {
      this.place = frame
      // Until a second tick comes the tempo is the one known from before, or 120.
      if (this.period === 0) this.period = (this.sampleRate * 60) / 120 / TICKS_PER_BEAT
    } else {
      const expected = this.place + this.period,
        late = frame - expected
      const gap = Math.abs(late) > this.period * 3
      const learning = this.count < LEARNING_TICKS
      if (this.count === 1 || gap) {
        this.period = this.count === 1 ? frame - this.place : this.period
        this.place = frame
      } else {
        this.place = expected + late * (learning ? 2 / (this.count + 2) : PLACE_SHARE)
        this.period = Math.max(
          1,
          this.period + late * (learning ? 1 / ((this.count + 1) * this.count) : TEMPO_SHARE),
        )
      }
    }
    this.count += 1
    const now = this.count === 1 ? 0 : this.beatsAt(frame)
    // From here to where the next tick will be: its beats are known exactly.
    const goal = this.count / TICKS_PER_BEAT,
      frames = Math.max(1, this.place + this.period - frame)
    return (this.line = { beats: now, perFrame: Math.max(0, goal - now) / frames, frame, running: true })
  }

  /** The line at a frame; stopped when ticks no longer come. */
  at(frame: number): BeatLine {
    if (this.line.running && this.count > 0 && frame - this.line.frame > PATIENCE * this.period)
      this.stop(frame)
    return this.line
  }
}
