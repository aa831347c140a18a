import { useStore } from '@xyflow/react'
import type { CSSProperties } from 'react'

/** The scale along the chart's border: its steps follow pan and zoom. */
export const Neatline = () => {
  const [x, y, zoom] = useStore((state) => state.transform)
  const step = 48 * zoom * (zoom < 0.5 ? 4 : zoom < 1 ? 2 : 1)
  const bar = (direction: 'right' | 'bottom', offset: number): CSSProperties => ({
    backgroundImage: `repeating-linear-gradient(to ${direction}, var(--neat) 0 ${step / 2}px, var(--card) ${step / 2}px ${step}px)`,
    ...(direction === 'right'
      ? { backgroundPositionX: offset % step }
      : { backgroundPositionY: offset % step }),
  })
  const edge = 'pointer-events-none absolute z-[5]'
  const rule = '0.5px solid var(--ink2)'
  return (
    <div aria-hidden="true">
      <div
        className={`${edge} left-0 right-0 top-0 h-[5px]`}
        style={{ ...bar('right', x), backgroundSize: `${step}px 100%`, borderBottom: rule }}
      />
      <div
        className={`${edge} bottom-0 left-0 right-0 h-[5px]`}
        style={{ ...bar('right', x), backgroundSize: `${step}px 100%`, borderTop: rule }}
      />
      <div
        className={`${edge} bottom-0 left-0 top-0 w-[5px]`}
        style={{ ...bar('bottom', y), backgroundSize: `100% ${step}px`, borderRight: rule }}
      />
      <div
        className={`${edge} bottom-0 right-0 top-0 w-[5px]`}
        style={{ ...bar('bottom', y), backgroundSize: `100% ${step}px`, borderLeft: rule }}
      />
    </div>
  )
}

/** Faint crosses every 48 px of the page. */
export const Crosses = () => {
  const [x, y, zoom] = useStore((state) => state.transform)
  const size = 48 * zoom
  const mark = encodeURIComponent(
    `<svg xmlns="http://www.w3.org/2000/svg" width="${size}" height="${size}"><path d="M${size / 2 - 2} ${size / 2}h4M${size / 2} ${size / 2 - 2}v4" stroke="#8fa0a8" stroke-opacity="0.5" stroke-width="1"/></svg>`,
  )
  return (
    <div
      aria-hidden="true"
      className="pointer-events-none absolute inset-0"
      style={{
        backgroundImage: `url("data:image/svg+xml,${mark}")`,
        backgroundPosition: `${x - size / 2}px ${y - size / 2}px`,
      }}
    />
  )
}
