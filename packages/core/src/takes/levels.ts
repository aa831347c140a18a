/** Decibels and what measures a tape, exact on every machine. */
import { LoudnessMeter } from '../analysis/loudness.ts'
import { peakOf, TruePeakMeter } from '../analysis/truepeak.ts'
import { exactExp } from '../units/exact.ts'
import { piecesOf, type Tape } from './tape.ts'

export const gainOfDb = (db: number): number => exactExp((db * Math.LN10) / 20)

export const MEASURES = ['peak', 'truepeak', 'lufs'] as const
export type Measure = (typeof MEASURES)[number]

/**
 * The factor that brings a tape to a level, in dB of full scale or LUFS; 1 for what is silent. Tells frames read on the
 * way.
 */
export async function* factorTo(tape: Tape, measure: Measure, level: number): AsyncGenerator<number, number> {
  const peaks = new TruePeakMeter(measure === 'truepeak' ? tape.channels : 0),
    loudness = new LoudnessMeter(tape.rate, measure === 'lufs' ? tape.channels : 0)
  let most = 0,
    read = 0
  for await (const piece of piecesOf(tape)) {
    if (measure === 'peak') most = Math.max(most, peakOf(piece))
    else if (measure === 'truepeak') peaks.add(piece)
    else loudness.add(piece)
    read += piece[0]?.length ?? 0
    yield read
  }
  if (measure === 'lufs') {
    const now = loudness.integrated
    return Number.isFinite(now) ? gainOfDb(level - now) : 1
  }
  if (measure === 'truepeak') most = peaks.end()
  return most > 0 ? gainOfDb(level) / most : 1
}
