import { useDocument } from '../store/document.ts'
import { CARD_WIDTH } from './geometry.ts'

/** A free place in the middle of what the chart shows, in patch coordinates. */
export const chartCentre = (): { x: number; y: number } => {
  const frame = document.querySelector('.chart')?.getBoundingClientRect()
  const viewport = document.querySelector<HTMLElement>('.react-flow__viewport')
  if (!frame || !viewport) return { x: 0, y: 0 }
  const { a: zoom, e, f } = new DOMMatrix(getComputedStyle(viewport).transform)
  let x = (frame.width / 2 - e) / zoom - CARD_WIDTH / 2,
    y = (frame.height / 2 - f) / zoom - 60
  const taken = useDocument.getState().patch.modules
  while (taken.some((module) => Math.abs((module.x ?? 0) - x) < 24 && Math.abs((module.y ?? 0) - y) < 24)) {
    x += 36
    y += 36
  }
  return { x, y }
}
