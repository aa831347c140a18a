/** Widths of short texts, worked out once each without the page. */

let context: CanvasRenderingContext2D | undefined
const known = new Map<string, number>()
const MOST = 4000
/** Counts the times that fonts have come: what was measured before holds no more. */
let come = 0
export const fontsCome = (): number => come

const FAMILY = {
  sans: '"Atkinson Hyperlegible Next Variable", system-ui, sans-serif',
  mono: '"Atkinson Hyperlegible Mono Variable", ui-monospace, monospace',
} as const

/** Pixels a text is wide at a size and weight. */
export const textWidth = (
  text: string,
  size: number,
  weight = 400,
  family: keyof typeof FAMILY = 'sans',
): number => {
  const key = `${family} ${size} ${weight} ${text}`
  let width = known.get(key)
  if (width === undefined) {
    context ??= document.createElement('canvas').getContext('2d')!
    context.font = `${weight} ${size}px ${FAMILY[family]}`
    width = context.measureText(text).width
    if (known.size >= MOST) known.clear()
    known.set(key, width)
  }
  return width
}

/** Fonts have come: what was measured with others is forgotten. Given back: how to stop. */
export const followFonts = (changed: () => void): (() => void) => {
  const { fonts } = document
  const listener = (): void => {
    known.clear()
    come += 1
    changed()
  }
  fonts.addEventListener('loadingdone', listener)
  return () => {
    fonts.removeEventListener('loadingdone', listener)
  }
}
