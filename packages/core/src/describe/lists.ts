import type { ShownRange } from './types.ts'

/** A list of numbers from a module's data, filled up to a length. */
export const numbersOf = (value: unknown, length: number, rest: number): number[] => {
  const list = Array.isArray(value) ? value : []
  return Array.from({ length }, (_, i) => {
    const item: unknown = list[i]
    return typeof item === 'number' && Number.isFinite(item)
      ? item
      : item === true
        ? 1
        : item === false
          ? 0
          : rest
  })
}

/** Levels and ratios of partials and modes, as rows show them. */
export const LEVELS: ShownRange = { min: 0, max: 1, unit: '%', grain: 0.01, zero: 0 },
  RATIOS_SHOWN: ShownRange = { min: 0, max: 32, unit: '', grain: 1, zero: 0 }
