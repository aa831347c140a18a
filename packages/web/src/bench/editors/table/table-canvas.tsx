/** A canvas of the table editor: drawn when what it shows is another, or its size or the colours are. */
import { type ComponentProps, useEffect, useRef } from 'react'
import { useApp } from '../../../app/context.ts'
import type { Ink } from '../../frames.ts'
import { fitted, type Size } from '../../fitted.ts'

interface TableCanvasProps extends Omit<ComponentProps<'canvas'>, 'ref'> {
  readonly paint: (context: CanvasRenderingContext2D, ink: Ink, size: Size) => void
}

export const TableCanvas = ({ paint, ...props }: TableCanvasProps) => {
  const { frames } = useApp()
  const ref = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    const canvas = ref.current!
    const draw = (): void => {
      const size = { width: canvas.clientWidth, height: canvas.clientHeight }
      if (size.width < 10 || size.height < 10) return
      fitted(canvas, size, Math.min(2, window.devicePixelRatio || 1))
      paint(canvas.getContext('2d')!, frames, size)
    }
    draw()
    const observer = new ResizeObserver(draw)
    observer.observe(canvas)
    const stop = frames.onColours(draw)
    return () => {
      observer.disconnect()
      stop()
    }
  }, [frames, paint])
  return <canvas ref={ref} {...props} />
}
