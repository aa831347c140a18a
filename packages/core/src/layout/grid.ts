/** The canvas' grid: positions snap to a quarter of the chart's crosses. */
export const GRID = 12

/** What a cable needs beside another one, in chart pixels. */
export const LANE = 7

/** The nearest place on the grid. */
export const snap = (value: number): number => Math.round(value / GRID) * GRID
