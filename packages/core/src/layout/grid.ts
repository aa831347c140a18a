/** The canvas' grid: positions snap to a quarter of the chart's crosses. */
export const GRID = 12

/** The nearest place on the grid. */
export const snap = (value: number): number => Math.round(value / GRID) * GRID
