/** The chart as the rest of the page asks for it. */

/** What can be asked of the chart by name. Without a chart on the page nothing happens. */
export interface Chart {
  /** At the pointer, or in the middle; `into`: what is chosen goes into that cable, which it opens at. */
  openFinder: (into?: string) => void
  /** Opens the finder at a card, for what it is to become. */
  replace: (id: string) => void
  /** Shows the whole patch, or some of its modules. */
  fit: (ids?: readonly string[]) => void
  /** Moves the view so that a card is in it. */
  reveal: (id: string) => void
  /** Moves the view so that a place of the chart is in it. */
  showArea: (area: {
    readonly x: number
    readonly y: number
    readonly width: number
    readonly height: number
  }) => void
  /** The window a patch is laid out for: the chart without its margins, panels open. */
  room: () => { readonly width: number; readonly height: number }
  /** Cards that stand somewhere else since this moment come from where they were. */
  glide: (
    from: ReadonlyMap<string, { readonly x: number; readonly y: number }>,
    marks: readonly string[],
  ) => void
  /** A free place in the middle of what is seen, in patch coordinates. */
  centre: () => { readonly x: number; readonly y: number }
  /** Puts the keyboard's focus on the chart. */
  focus: () => void
}

const NONE: Chart = {
  openFinder: () => undefined,
  replace: () => undefined,
  fit: () => undefined,
  reveal: () => undefined,
  showArea: () => undefined,
  room: () => ({ width: 1, height: 1 }),
  glide: () => undefined,
  centre: () => ({ x: 0, y: 0 }),
  focus: () => {
    if (document.activeElement instanceof HTMLElement) document.activeElement.blur()
  },
}

/** Stands for the chart until there is one on the page. */
export const noChart = (): Chart => ({ ...NONE })

/** Tells that there is a chart on the page; given back: that there is none any more. */
export const attachChart = (held: Chart, chart: Chart): (() => void) => {
  Object.assign(held, chart)
  return () => {
    Object.assign(held, NONE)
  }
}
