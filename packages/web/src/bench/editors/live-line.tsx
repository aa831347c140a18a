/** A line across a picture where something is now: moved by the page's frames, hidden while it is nowhere. */
import { useEffect, useRef } from 'react'
import { useApp } from '../../app/context.ts'

interface LiveLineProps {
  /** The signal that tells where, from 0 to `most`; below 0 it is nowhere. */
  readonly signal: string
  readonly most: number
}

export const LiveLine = ({ signal, most }: LiveLineProps) => {
  const { frames } = useApp()
  const line = useRef<HTMLSpanElement>(null)
  useEffect(
    () =>
      frames.paint((ink) => {
        if (!line.current) return
        const at = ink.picture(signal)?.last ?? -1,
          isThere = at >= 0 && at <= most
        line.current.style.visibility = isThere ? 'visible' : 'hidden'
        if (isThere) line.current.style.transform = `translateX(${(100 * at) / most}%)`
      }),
    [frames, signal, most],
  )
  return (
    <span className="live-line-way" aria-hidden="true">
      <span ref={line} className="live-line" data-playhead />
    </span>
  )
}
