/** Live pictures in a frame of their own, beside the chart: of a loupe, of the inspector. */
import { type HTMLAttributes, memo, useEffect, useRef } from 'react'
import { useApp } from '../app/context.ts'
import { type PictureItem, PictureLayer } from './chart/picture-layer.ts'
import { Viewport } from './chart/viewport.ts'

interface PicturesInProps extends Pick<HTMLAttributes<HTMLElement>, 'role' | 'aria-label' | 'aria-hidden'> {
  readonly width: number
  readonly height: number
  /** Where they stand in the frame; the same list as long as they are the same. */
  readonly items: readonly PictureItem[]
  readonly testId?: string
}

export const PicturesIn = memo(({ width, height, items, testId, ...named }: PicturesInProps) => {
  const { frames, engine } = useApp()
  const holder = useRef<HTMLDivElement>(null),
    layer = useRef<PictureLayer>(undefined)
  useEffect(() => {
    const view = new Viewport()
    Object.assign(view, { width, height })
    const made = new PictureLayer(holder.current!, view, frames, 0)
    layer.current = made
    const stop = frames.paint(() => {
      if (engine.isRunning) made.step(performance.now())
    })
    return () => {
      stop()
      made.end()
      layer.current = undefined
    }
  }, [frames, engine, width, height])
  useEffect(() => {
    const begin = (): void => {
      layer.current?.forget()
      layer.current?.set(items)
    }
    begin()
    return frames.onColours(begin)
  }, [frames, engine, width, height, items])
  return <div ref={holder} data-testid={testId} {...named} />
})
