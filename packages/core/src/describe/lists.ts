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
