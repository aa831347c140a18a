/** Values in sentences of faults. */

/** A value as it stands in a fault: short, on one line. */
export const described = (value: unknown): string => {
  if (value === undefined) return 'nothing'
  if (Array.isArray(value)) return 'a list'
  if (value === null) return 'null'
  if (typeof value === 'object') return 'an object'
  const text = JSON.stringify(value) ?? String(value)
  return text.length > 40 ? `${text.slice(0, 37)}…` : text
}

/** What is wrong with a number that must lie within bounds, as a sentence's end; `unit` with its space. */
export const numberIn = (value: unknown, low: number, high: number, unit = ''): string | undefined => {
  if (typeof value !== 'number') return `expected a number, found ${described(value)}`
  if (!Number.isFinite(value)) return 'is not a finite number'
  if (value < low) return `${value} is below ${low}${unit}`
  return value > high ? `${value} is above ${high}${unit}` : undefined
}
