import { Tooltip } from 'radix-ui'
import { cloneElement, type ReactElement, useEffect, useState } from 'react'
import { overlays } from './overlays.ts'

interface TipProps {
  /** What the thing is, in words. */
  readonly words: string
  /** Its key, shown beside the words. */
  readonly keys?: string | undefined
  readonly side?: Side
  readonly children: ReactElement<Record<string, unknown>>
}
type Side = 'top' | 'bottom' | 'left' | 'right'

/** Names a thing, with its key, while the pointer rests on it or the keyboard's focus is on it. */
export const Tip = ({ words, keys, side = 'bottom', children }: TipProps) =>
  cloneElement(children, { 'data-tip': words, 'data-tip-keys': keys, 'data-tip-side': side })

const REST_MS = 500
/** Going on from one thing to the next, its tooltip comes at once. */
const WARM_MS = 200

interface Shown {
  readonly words: string
  readonly keys: string | undefined
  readonly side: Side
  readonly box: DOMRect
}

const tipAt = (target: EventTarget | null): HTMLElement | null =>
  target instanceof Element ? target.closest<HTMLElement>('[data-tip]') : null

const shownOf = (element: HTMLElement): Shown => ({
  words: element.dataset['tip'] ?? '',
  keys: element.dataset['tipKeys'],
  side: (element.dataset['tipSide'] ?? 'bottom') as Side,
  box: element.getBoundingClientRect(),
})

/** Which thing's tooltip is shown: one for the whole page, so that what has one costs nothing. */
const useShown = (): Shown | undefined => {
  const [shown, setShown] = useState<Shown | undefined>(undefined)
  useEffect(() => {
    let over: HTMLElement | null = null,
      timer: ReturnType<typeof setTimeout> | undefined,
      gone = -Infinity,
      isShown = false
    const show = (element: HTMLElement): void => {
      if (!element.isConnected || !element.dataset['tip']) return
      isShown = true
      setShown(shownOf(element))
    }
    const hide = (): void => {
      clearTimeout(timer)
      if (isShown) {
        gone = performance.now()
        setShown(undefined)
      }
      isShown = false
    }
    const enter = (event: PointerEvent): void => {
      const element = tipAt(event.target)
      if (element === over) return
      over = element
      hide()
      if (!element || event.buttons !== 0) return
      timer = setTimeout(show, performance.now() - gone < WARM_MS ? 0 : REST_MS, element)
    }
    const focus = ({ target }: FocusEvent): void => {
      hide()
      const element = tipAt(target)
      if (element && element === target && element.matches(':focus-visible')) show(element)
    }
    const listeners = [
      ['pointerover', enter],
      ['focusin', focus],
      ['focusout', hide],
      ['pointerdown', hide],
      ['keydown', hide],
      ['wheel', hide],
    ] as const
    for (const [name, listener] of listeners)
      document.addEventListener(name, listener as EventListener, { capture: true, passive: true })
    return () => {
      clearTimeout(timer)
      for (const [name, listener] of listeners)
        document.removeEventListener(name, listener as EventListener, { capture: true })
    }
  }, [])
  return shown
}

/** Shows the tooltips of the page. */
export const TipLayer = () => {
  const shown = useShown()
  if (!shown) return null
  const { words, keys, side, box } = shown
  const { left, top, width, height } = box
  return (
    <Tooltip.Provider>
      <Tooltip.Root open>
        <Tooltip.Trigger asChild>
          <span
            className="pointer-events-none fixed"
            aria-hidden="true"
            style={{ left, top, width, height }}
          />
        </Tooltip.Trigger>
        <Tooltip.Portal container={overlays()}>
          <Tooltip.Content className="tip" side={side} sideOffset={4} collisionPadding={8}>
            {words}
            {keys !== undefined && <kbd className="mono ml-2 text-ink2">{keys}</kbd>}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  )
}
