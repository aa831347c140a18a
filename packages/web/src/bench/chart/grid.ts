/** Things on the chart by where they are, so that only those near are looked at. */
import type { Box } from './routing.ts'

export class Grid<T> {
  private readonly cells = new Map<number, { readonly box: Box; readonly item: T }[]>()

  /** Cells are squares of so many chart pixels. */
  constructor(private readonly cell: number) {}

  private *keysOf({ left, top, right, bottom }: Box): Generator<number> {
    const { cell } = this
    for (let column = Math.floor(left / cell); column <= Math.floor(right / cell); column += 1)
      for (let row = Math.floor(top / cell); row <= Math.floor(bottom / cell); row += 1)
        yield column * 65536 + row
  }

  add(box: Box, item: T): void {
    for (const key of this.keysOf(box)) {
      const there = this.cells.get(key)
      if (there) there.push({ box, item })
      else this.cells.set(key, [{ box, item }])
    }
  }

  /** Everything that touches a box, each once. */
  within(area: Box): Set<T> {
    const found = new Set<T>()
    for (const key of this.keysOf(area))
      for (const { box, item } of this.cells.get(key) ?? [])
        if (
          box.left <= area.right &&
          box.right >= area.left &&
          box.top <= area.bottom &&
          box.bottom >= area.top
        )
          found.add(item)
    return found
  }
}
