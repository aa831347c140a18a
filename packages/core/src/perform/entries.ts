/** Single entries of a module's lists. */
import type { DataDescription } from '../describe/types.ts'

/** A list with one entry set. Entries before it that are not there yet stay what they count as. */
export const withEntry = (
  { default: usual, rest }: DataDescription,
  now: unknown,
  index: number,
  value: unknown,
): unknown[] => {
  const list = [...((now ?? usual ?? []) as unknown[])]
  while (rest !== undefined && list.length < index) list.push(rest === 'place' ? list.length + 1 : rest)
  list[Math.min(index, list.length)] = value
  return list
}
