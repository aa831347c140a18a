/** A press that is followed until it is let go, by whoever has it; Escape gives it up. */
import type { PointerEvent as ReactPointerEvent } from 'react'

export interface Following {
  readonly move: (event: PointerEvent) => void
  readonly drop: (event: PointerEvent) => void
  readonly giveUp: () => void
}

/** Follows the main button from a press on; nothing below begins anything. */
export const followPointer = (event: ReactPointerEvent<Element>, following: Following): void => {
  if (event.button !== 0) return
  event.stopPropagation()
  const element = event.currentTarget as HTMLElement
  element.setPointerCapture(event.pointerId)
  const stop = (): void => {
    element.removeEventListener('pointermove', following.move)
    element.removeEventListener('pointerup', up)
    element.removeEventListener('pointercancel', cancel)
    window.removeEventListener('keydown', pressed, true)
  }
  const up = (dropped: PointerEvent): void => {
    stop()
    following.drop(dropped)
  }
  const cancel = (): void => {
    stop()
    following.giveUp()
  }
  const pressed = (key: KeyboardEvent): void => {
    if (key.key !== 'Escape') return
    key.preventDefault()
    key.stopPropagation()
    cancel()
  }
  element.addEventListener('pointermove', following.move)
  element.addEventListener('pointerup', up)
  element.addEventListener('pointercancel', cancel)
  window.addEventListener('keydown', pressed, true)
}
