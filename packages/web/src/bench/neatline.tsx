/** The chart's ground and border: faint crosses and the scale along its edge, moved with the view outside React. */
import { useEffect, useRef } from 'react'
import { useScene } from './scene-context.ts'

const CROSS = 48
/** Of a scale: so many chart pixels a step, more of them from further off. */
const stepAt = (zoom: number): number => CROSS * zoom * (zoom < 0.5 ? 4 : zoom < 1 ? 2 : 1)

const EDGE = 'pointer-events-none absolute z-[6] neat'
const EDGES = [
  ['level', 'left-0 right-0 top-0 h-[5px] border-b'],
  ['level', 'bottom-0 left-0 right-0 h-[5px] border-t'],
  ['upright', 'bottom-0 left-0 top-0 w-[5px] border-r'],
  ['upright', 'bottom-0 right-0 top-0 w-[5px] border-l'],
] as const
/** Strips reach so far beyond their edge. */
const BEYOND = 400

/** Called with the view at once and at every move. */
const useView = (draw: (view: { x: number; y: number; zoom: number }, isAtRest: boolean) => void): void => {
  const { view } = useScene()
  useEffect(() => {
    const stops = [
      view.onMove(() => {
        draw(view, false)
      }),
      view.onRest(() => {
        draw(view, true)
      }),
    ]
    draw(view, true)
    return () => {
      for (const stop of stops) stop()
    }
  }, [view, draw])
}

/** The scale along the border: its steps follow pan and zoom. */
export const Neatline = () => {
  const frame = useRef<HTMLDivElement>(null)
  const drawn = useRef({ zoom: 0, step: 1 })
  const draw = useRef(({ x, y, zoom }: { x: number; y: number; zoom: number }, isAtRest: boolean) => {
    const element = frame.current
    if (!element) return
    if (isAtRest && drawn.current.zoom !== zoom) {
      drawn.current = { zoom, step: stepAt(zoom) }
      element.style.setProperty('--step', `${drawn.current.step}px`)
    }
    const scale = zoom / drawn.current.zoom,
      step = drawn.current.step * scale
    const rest = (at: number): number => ((((at + BEYOND) % step) + step) % step) - step
    for (const edge of element.children) {
      const strip = edge.firstElementChild as HTMLElement
      strip.style.transform =
        (edge as HTMLElement).dataset['edge'] === 'level'
          ? `translateX(${rest(x)}px) scaleX(${scale})`
          : `translateY(${rest(y)}px) scaleY(${scale})`
    }
  })
  useView(draw.current)
  return (
    <div ref={frame} aria-hidden="true">
      {EDGES.map(([edge, place]) => (
        <div key={place} className={`${EDGE} neat-${edge} ${place}`} data-edge={edge}>
          <div style={{ transformOrigin: '0 0' }} />
        </div>
      ))}
    </div>
  )
}

const crossImage = (size: number): string => {
  const mid = size / 2
  const mark = `<svg xmlns="http://www.w3.org/2000/svg" width="${size}" height="${size}"><path d="M${mid - 2} ${mid}h4M${mid} ${mid - 2}v4" stroke="#8fa0a8" stroke-opacity="0.5" stroke-width="1"/></svg>`
  return `url("data:image/svg+xml,${encodeURIComponent(mark)}")`
}

/** Faint crosses every 48 px of the page: one layer that is moved by less than a step, and drawn anew after a zoom. */
export const Crosses = () => {
  const layer = useRef<HTMLDivElement>(null)
  const drawn = useRef(0)
  const draw = useRef(({ x, y, zoom }: { x: number; y: number; zoom: number }, isAtRest: boolean) => {
    const element = layer.current
    if (!element) return
    const size = CROSS * zoom
    if (isAtRest && drawn.current !== zoom) {
      drawn.current = zoom
      element.style.backgroundImage = crossImage(size)
    }
    const scale = zoom / drawn.current,
      rest = (at: number): number => {
        const place = (((at % size) + size) % size) - 1.5 * size
        // On whole pixels a layer is put on the page as it is.
        return scale === 1 ? Math.round(place) : place
      }
    element.style.transform = `translate(${rest(x)}px, ${rest(y)}px) scale(${scale})`
  })
  useView(draw.current)
  return <div ref={layer} aria-hidden="true" className="crosses" />
}
