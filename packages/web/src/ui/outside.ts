import { type RefObject, useEffect, useRef } from 'react'

/** For what lies over the page: closes it when something else is pressed. */
export const useOutside = (close: (target: Element) => void): RefObject<HTMLDivElement | null> => {
  const box = useRef<HTMLDivElement>(null),
    latest = useRef(close)
  useEffect(() => {
    latest.current = close
  })
  useEffect(() => {
    const outside = (event: PointerEvent): void => {
      const target = event.target as Element
      if (!box.current?.contains(target)) latest.current(target)
    }
    window.addEventListener('pointerdown', outside, true)
    return () => {
      window.removeEventListener('pointerdown', outside, true)
    }
  }, [])
  return box
}
