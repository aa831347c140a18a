import { ExternalClock } from '../time/external.ts'
import type { Kernels } from './kernel-exports.ts'

/** The line of beats begins anew after so many frames, before the kernels' counters of frames come round. */
const REBASE = 2 ** 30

/**
 * Beats: straight lines between changes of tempo and transport, so that the beat of a frame never depends on how time was
 * cut. All frames are the engine's clock.
 */
export class Transport {
  /** Beats at `frame`: the line since tempo or transport last changed. */
  private base = 0
  private frame = 0
  private bpm = 120
  private isOn = true
  private starts = 0
  private isChanged = true
  private outer: ExternalClock | undefined

  constructor(
    private readonly kernels: Kernels,
    private readonly sampleRate: number,
  ) {}

  get running(): boolean {
    return this.isOn
  }
  private get perFrame(): number {
    return this.isOn ? this.bpm / (60 * this.sampleRate) : 0
  }
  beatsAt(clock: number): number {
    return this.base + (clock - this.frame) * this.perFrame
  }

  /** Begins a new line of beats. */
  private begin(beats: number, clock: number): void {
    this.base = beats
    this.frame = clock
    this.isChanged = true
  }
  /** The tempo of a patch, before anything has played. */
  load(bpm: number): void {
    this.bpm = bpm
    this.isChanged = true
  }
  setTempo(bpm: number, clock: number): void {
    this.begin(this.beatsAt(clock), clock)
    this.bpm = bpm
  }
  change(value: 'start' | 'stop' | 'continue', clock: number): void {
    this.begin(value === 'start' ? 0 : this.beatsAt(clock), clock)
    if (value === 'start') this.starts += 1
    this.isOn = value !== 'stop'
  }
  /** Time went on by so many frames as if nothing had happened. */
  skip(way: number): void {
    this.frame += way
    this.isChanged = true
  }

  /** A message of a clock from outside. */
  follow(value: 'tick' | 'start' | 'stop' | 'continue', clock: number): void {
    this.outer ??= new ExternalClock(this.sampleRate)
    const { outer } = this
    if (value === 'tick') outer.tick(clock)
    else if (value === 'start') outer.start(clock)
    else if (value === 'stop') outer.stop(clock)
    else outer.resume(clock)
    this.sendOuter(clock)
  }
  private sendOuter(clock: number): void {
    const line = this.outer!.at(clock)
    this.kernels.setOuterClock(
      line.beats,
      line.perFrame,
      line.frame >>> 0,
      line.running ? 1 : 0,
      this.outer!.starts,
    )
  }

  /** Tells the kernels before a segment. */
  send(clock: number): void {
    if (clock % REBASE === 0 && clock > 0) this.begin(this.beatsAt(clock), clock)
    if (this.isChanged) {
      this.kernels.setTransport(this.base, this.perFrame, this.frame >>> 0, this.isOn ? 1 : 0, this.starts)
      this.kernels.wake()
      this.isChanged = false
    }
    if (this.outer) this.sendOuter(clock)
  }
}
