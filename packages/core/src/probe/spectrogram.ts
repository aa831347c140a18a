/** Levels of frequencies over time. */
import { spectrumOf } from '../analysis/spectrum.ts'
import type { Plot } from './plot.ts'
import type { Tape } from './tape.ts'

const FRAMES = 4096,
  HOP = 1024,
  /** Rows up, from `LOW_HZ` to `HIGH_HZ` by equal ratios. */
  ROWS = 144,
  COLUMNS = 300,
  LOW_HZ = 40,
  HIGH_HZ = 18000,
  RANGE = [-100, 0] as const

/** Level of every row, 0…255. */
const columnOf = (channels: readonly Float32Array[], rate: number): Uint8Array => {
  const { amplitudes, binHz } = spectrumOf(channels, rate)
  const edge = (row: number): number => LOW_HZ * (HIGH_HZ / LOW_HZ) ** (row / ROWS)
  return Uint8Array.from({ length: ROWS }, (_, row) => {
    const from = edge(row) / binHz,
      to = edge(row + 1) / binHz
    // Between two bins a row lies between their levels; over several it has the highest.
    const low = Math.floor(from),
      share = from - low
    let most = (amplitudes[low] ?? 0) * (1 - share) + (amplitudes[low + 1] ?? 0) * share
    for (let k = low + 1; k < to; k += 1) most = Math.max(most, amplitudes[k] ?? 0)
    const db = 20 * Math.log10(Math.max(most, 1e-12))
    return Math.round(255 * Math.min(1, Math.max(0, (db - RANGE[0]) / (RANGE[1] - RANGE[0]))))
  })
}

export class Spectrogram {
  private columns: Uint8Array[] = []
  private heardTo = 0

  look(tape: Tape, isWhole = false): Plot {
    const { rate } = tape
    if (tape.position < this.heardTo) {
      this.columns = []
      this.heardTo = 0
    }
    // Of what came while nobody looked only as much as is drawn, and of what lies behind only what is kept.
    const hop = isWhole ? Math.max(HOP, Math.ceil(tape.frames / COLUMNS)) : HOP
    const oldest = tape.position - Math.min(tape.frames, COLUMNS * hop)
    this.heardTo = Math.max(this.heardTo, oldest)
    for (; this.heardTo + FRAMES <= tape.position; this.heardTo += hop) {
      this.columns.push(columnOf(tape.stretch(this.heardTo, this.heardTo + FRAMES), rate))
      if (this.columns.length > COLUMNS) this.columns.shift()
    }
    const levels = new Uint8Array(COLUMNS * ROWS),
      begin = isWhole ? 0 : COLUMNS - this.columns.length
    this.columns.forEach((column, n) => {
      levels.set(column, (begin + n) * ROWS)
    })
    const seconds = (COLUMNS * hop) / rate
    return {
      across: { unit: 's', scale: 'linear', from: isWhole ? 0 : -seconds, to: isWhole ? seconds : 0 },
      up: { unit: 'Hz', scale: 'log', from: LOW_HZ, to: HIGH_HZ },
      curves: [],
      marks: [],
      readings: [],
      picture: { columns: COLUMNS, rows: ROWS, levels, range: RANGE },
    }
  }
}
