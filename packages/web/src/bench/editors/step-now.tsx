/** The step that sounds: a band over all rows, moved by the page's frames. */
import { type RefObject, useEffect, useRef } from 'react'
import { useApp } from '../../app/context.ts'

interface StepNowProps {
  readonly lanes: RefObject<HTMLDivElement | null>
  readonly id: string
  readonly count: number
}

export const StepNow = ({ lanes, id, count }: StepNowProps) => {
  const { frames } = useApp()
  const band = useRef<HTMLSpanElement>(null)
  useEffect(() => {
    let shown = -2
    return frames.paint((ink) => {
      const step = Math.round(ink.picture(`${id}.step`)?.last ?? -1)
      const track = lanes.current?.querySelector<HTMLElement>('.step-track')
      if (step === shown || !band.current || !track) return
      shown = step
      const isThere = step >= 0 && step < count
      band.current.style.visibility = isThere ? 'visible' : 'hidden'
      if (!isThere) return
      const width = track.offsetWidth / count
      band.current.style.left = `${track.offsetLeft + step * width}px`
      band.current.style.width = `${width}px`
      band.current.dataset['now'] = String(step)
    })
  }, [frames, lanes, id, count])
  return <span ref={band} className="step-now" aria-hidden="true" data-step-now />
}
