/** Factors that bring the notes of a kit's layers to one loudness. */
import { median } from '../../units/median.ts'
import { gainOfDb } from '../levels.ts'
import type { JobFacts } from './job.ts'
import type { KitPlan } from './plan.ts'

/** Highest sample of a file of whole numbers; what is above would be cut off. */
const CEILING = 0.99

export interface KitLevels {
  /** A factor for every job. */
  readonly gains: readonly number[]
  /** What the user should know. */
  readonly warnings: readonly string[]
}

/**
 * All notes of a layer get the loudness of their layer: the loudest layer what was asked for, every other as much less as
 * its middle note is softer than that of the loudest. Where a file of whole numbers would be cut off, all become softer by
 * the same, which is told.
 */
export const kitLevels = ({ kit, jobs }: KitPlan, facts: readonly JobFacts[]): KitLevels => {
  const warnings: string[] = []
  const lufs = (index: number): number | null => facts[index]!.note.lufs
  let gains = jobs.map(() => 1)
  const { align } = kit
  if (align !== undefined) {
    const layers = kit.velocities.map((_, layer) =>
      jobs.filter((job) => job.layer === layer).flatMap(({ index }) => lufs(index) ?? []),
    )
    const middles = layers.map((list) => (list.length > 0 ? median(list) : undefined))
    const loudest = middles.reduce<number>((most, middle) => Math.max(most, middle ?? -Infinity), -Infinity)
    gains = jobs.map(({ index, layer }) => {
      const own = lufs(index)
      return own === null ? 1 : gainOfDb(align + (middles[layer]! - loudest) - own)
    })
  }
  const silent = jobs.filter(({ index }) => facts[index]!.note.peak === 0).map(({ name }) => name)
  if (silent.length > 0)
    warnings.push(
      `${silent.length === 1 ? `${silent[0]} is silent` : `${silent.length} files are silent, the first of them ${silent[0]}`}`,
    )
  if (kit.bits === '32f') return { gains, warnings }
  const highest = jobs.reduce((most, { index }) => {
    const { note, release } = facts[index]!
    return Math.max(most, gains[index]! * Math.max(note.peak, release?.peak ?? 0))
  }, 0)
  if (align === undefined || highest <= CEILING) return { gains, warnings }
  const less = CEILING / highest
  warnings.push(
    `at ${align} LUFS the highest peak would be ${(20 * Math.log10(highest)).toFixed(1)} dB above full scale; all files are ${(-20 * Math.log10(less)).toFixed(1)} dB softer. Ask for less, or for 32f`,
  )
  return { gains: gains.map((gain) => gain * less), warnings }
}
