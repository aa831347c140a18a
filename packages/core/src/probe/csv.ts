/** A plot as text for other programs: numbers with points, one table after another. */
import type { Plot } from './plot.ts'

const cell = (text: string): string => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text)
const line = (...cells: readonly (string | number | null)[]): string =>
  cells.map((each) => (each === null ? '' : typeof each === 'number' ? String(each) : cell(each))).join(',')
const headed = (name: string, unit: string): string => (unit ? `${name} (${unit})` : name)

/** Readings, marks, and every curve with its places, in the units of the axes. */
export const csvOf = ({ across, up, curves, marks, readings, picture }: Plot): string => {
  const parts: string[] = []
  if (readings.length > 0)
    parts.push(
      [
        line('reading', 'value', 'unit'),
        ...readings.map(({ name, value, unit }) => line(name, value, unit)),
      ].join('\n'),
    )
  if (marks.length > 0)
    parts.push(
      [
        line('mark', headed('at', across.unit), headed('height', up.unit), 'words'),
        ...marks.map(({ kind, x, y, words }) => line(kind, x, y, words)),
      ].join('\n'),
    )
  for (const { name, x, y } of curves)
    parts.push(
      [
        line(headed('at', across.unit), headed(name, up.unit)),
        ...Array.from(x, (at, n) => line(at, y[n]!)),
      ].join('\n'),
    )
  if (picture) {
    const { columns, rows, levels, range } = picture
    const level = (column: number, row: number): string =>
      (range[0] + ((range[1] - range[0]) * levels[column * rows + row]!) / 255).toFixed(1)
    const hertz = Array.from({ length: rows }, (_, row) =>
      (up.from * (up.to / up.from) ** ((row + 0.5) / rows)).toFixed(1),
    )
    const seconds = (column: number): string =>
      (across.from + ((across.to - across.from) * (column + 0.5)) / columns).toFixed(4)
    parts.push(
      [
        line('at (s)', ...hertz.map((hz) => `${hz} Hz`)),
        ...Array.from({ length: columns }, (_, column) =>
          line(seconds(column), ...hertz.map((_hz, row) => level(column, row))),
        ),
      ].join('\n'),
    )
  }
  return `${parts.join('\n\n')}\n`
}
