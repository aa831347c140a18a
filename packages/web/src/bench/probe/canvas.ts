/** A canvas that is drawn with the page's frames, when what it shows, its size or the pointer is another. */
import { type RefObject, useEffect, useRef } from 'react'
import { useApp } from '../../app/context.ts'
import { fitted, type Size } from '../fitted.ts'
import type { Ink } from '../frames.ts'

export interface Spot {
  readonly x: number
  readonly y: number
}

/** Draws over the whole of it. */
export type Paint = (
  context: CanvasRenderingContext2D,
  ink: Ink,
  size: Size,
  pointer: Spot | undefined,
) => void

/** `shown`: what it is drawn from; what was drawn stands as long as all of it is the same. */
export const useProbeCanvas = (
  shown: () => readonly unknown[],
  paint: Paint,
): { readonly ref: RefObject<HTMLCanvasElement | null>; readonly pointer: RefObject<Spot | undefined> } => {
  const { frames } = useApp()
  const ref = useRef<HTMLCanvasElement>(null),
    pointer = useRef<Spot | undefined>(undefined)
  const now = useRef({ shown, paint })
  useEffect(() => {
    now.current = { shown, paint }
  })
  useEffect(() => {
    const canvas = ref.current!
    let size: Size = { width: canvas.clientWidth, height: canvas.clientHeight },
      drawn: readonly unknown[] = []
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry!.contentRect
      size = { width, height }
    })
    observer.observe(canvas)
    const stop = frames.paint((ink) => {
      const wanted = [now.current.paint, size, pointer.current, ink.colour('card'), ...now.current.shown()]
      if (wanted.length === drawn.length && wanted.every((each, n) => each === drawn[n])) return
      drawn = wanted
      if (size.width < 20 || size.height < 20) return
      fitted(canvas, size, Math.min(2, window.devicePixelRatio || 1))
      now.current.paint(canvas.getContext('2d')!, ink, size, pointer.current)
    })
    return () => {
      stop()
      observer.disconnect()
    }
  }, [frames])
  return { ref, pointer }
}
