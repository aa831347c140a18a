/** Adds many items to a list. As arguments of one call they would overflow the stack from about 100,000 on. */
export const append = <T>(list: T[], more: Iterable<T>): void => {
  for (const item of more) list.push(item)
}

/** The least of many numbers; Infinity of none. */
export const leastOf = (numbers: Iterable<number>): number => {
  let least = Infinity
  for (const value of numbers) if (value < least) least = value
  return least
}
