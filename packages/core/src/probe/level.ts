/** Level and loudness as they pass: what is loudest by sample and between samples, means, EBU R128. */
import { LoudnessMeter } from '../analysis/loudness.ts'
import { peakOf, TruePeakMeter } from '../analysis/truepeak.ts'
import { finite, type Plot } from './plot.ts'
import type { Tape } from './tape.ts'

const FLOOR_DB = -60,
  TOP_DB = 6
/** What stands under the bars: readings in short. */
const BAR_NAMES = ['peak', 'true', 'mean', '0.4 s', '3 s', 'all'] as const
/** Stretch a mean level is taken over. */
const MEAN_SECONDS = 0.4

const decibels = (x: number): number => 20 * Math.log10(x)

export class LevelView {
  private meter: LoudnessMeter | undefined
  private truePeak: TruePeakMeter | undefined
  private peak = 0
  private sides = 0
  private heardTo = 0

  /** Begins anew: peaks and what is integrated. */
  private begin(tape: Tape, at: number): void {
    this.sides = tape.sides
    this.meter = new LoudnessMeter(tape.rate, tape.sides)
    this.truePeak = new TruePeakMeter(tape.sides)
    this.peak = 0
    this.heardTo = at
  }

  private hear(tape: Tape, isWhole: boolean): void {
    if (!this.meter || tape.sides !== this.sides || tape.position < this.heardTo)
      this.begin(tape, isWhole ? 0 : Math.max(0, tape.position - Math.round(MEAN_SECONDS * tape.rate)))
    const channels = tape.stretch(this.heardTo, tape.position)
    this.heardTo = tape.position
    this.meter!.add(channels)
    this.truePeak!.add(channels)
    this.peak = Math.max(this.peak, peakOf(channels))
  }

  look(tape: Tape, isWhole = false): Plot {
    this.hear(tape, isWhole)
    const recent = tape.last(isWhole ? tape.frames : Math.round(MEAN_SECONDS * tape.rate))
    let power = 0,
      offset = 0
    for (const channel of recent)
      for (const x of channel) {
        power += (x * x) / (channel.length * recent.length)
        offset += x / (channel.length * recent.length)
      }
    const { momentary, shortTerm } = isWhole ? this.meter!.loudness : this.meter!.now
    const truePeak = isWhole ? this.truePeak!.end() : this.truePeak!.soFar
    const readings = [
      { name: 'peak', value: finite(decibels(this.peak)), unit: 'dB' },
      { name: 'true peak', value: finite(decibels(truePeak)), unit: 'dBTP' },
      { name: 'mean', value: finite(decibels(Math.sqrt(power))), unit: 'dB' },
      { name: 'momentary', value: finite(momentary), unit: 'LUFS' },
      { name: 'short-term', value: finite(shortTerm), unit: 'LUFS' },
      { name: 'integrated', value: finite(this.meter!.integrated), unit: 'LUFS' },
      { name: 'range', value: finite(this.meter!.loudness.range), unit: 'LU' },
      { name: 'offset', value: offset, unit: '' },
    ]
    const bars = readings.slice(0, 6)
    return {
      across: { unit: '', scale: 'linear', from: 0, to: bars.length, names: BAR_NAMES },
      up: { unit: 'dB', scale: 'linear', from: FLOOR_DB, to: TOP_DB },
      curves: [
        {
          name: 'levels',
          x: Float32Array.from(bars, (_, n) => n + 0.5),
          y: Float32Array.from(bars, ({ value }) => Math.max(FLOOR_DB, value ?? FLOOR_DB)),
          style: 'bars',
        },
      ],
      marks: [],
      readings,
    }
  }
}
