/** The middle of some numbers, in their order; the mean of both where there are two. */
export const median = (values: readonly number[]): number => {
  const sorted = [...values].sort((a, b) => a - b),
    middle = sorted.length >> 1
  return sorted.length % 2 === 1 ? sorted[middle]! : (sorted[middle - 1]! + sorted[middle]!) / 2
}
