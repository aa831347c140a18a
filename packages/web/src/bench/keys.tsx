import { noteName } from '@ypsilon/core'
import {
  type KeyboardEvent,
  memo,
  type PointerEvent,
  useEffect,
  useRef,
  useState,
  useSyncExternalStore,
} from 'react'
import { useApp } from '../app/context.ts'
import { CommandButton } from '../app/command-button.tsx'

const FIRST = 36,
  LAST = 84
const MIDDLE = 60
const BLACK = new Set([1, 3, 6, 8, 10])
const isBlack = (note: number): boolean => BLACK.has(note % 12)
const NOTES = Array.from({ length: LAST - FIRST + 1 }, (_, i) => FIRST + i)
const WHITES = NOTES.filter((note) => !isBlack(note)),
  BLACKS = NOTES.filter(isBlack)
const WIDTH = 100 / WHITES.length

interface Hit {
  readonly note: number
  readonly velocity: number
}

/** The key under the pointer; velocity by height. */
const hitAt = (event: PointerEvent): Hit | undefined => {
  const key = document.elementFromPoint(event.clientX, event.clientY)?.closest<HTMLElement>('[data-note]')
  if (!key) return undefined
  const box = key.getBoundingClientRect()
  return {
    note: Number(key.dataset['note']),
    velocity: Math.min(1, Math.max(0.1, (event.clientY - box.top) / box.height)),
  }
}

/** Plays by pointer: slide over the keys to play on. */
const usePlaying = () => {
  const { keyboard } = useApp()
  const current = useRef<number | undefined>(undefined)
  const release = (): void => {
    if (current.current !== undefined) keyboard.release(current.current)
    current.current = undefined
  }
  const press = (event: PointerEvent): void => {
    const hit = hitAt(event)
    if (hit?.note === current.current) return
    release()
    current.current = hit?.note
    if (hit) keyboard.press(hit.note, hit.velocity)
  }
  useEffect(
    () => () => {
      if (current.current !== undefined) keyboard.release(current.current)
    },
    [keyboard],
  )
  return {
    onPointerDown: (event: PointerEvent): void => {
      if (event.button !== 0) return
      const element = event.target as Element
      if (element.hasPointerCapture?.(event.pointerId)) element.releasePointerCapture(event.pointerId)
      press(event)
    },
    onPointerMove: (event: PointerEvent): void => {
      if (event.buttons & 1) press(event)
    },
    onPointerUp: release,
    onPointerCancel: release,
    onPointerLeave: release,
  }
}

interface KeyProps {
  readonly note: number
  readonly isHeld: boolean
  /** The keyboard's cursor is on it. */
  readonly isAt: boolean
}

const WhiteKey = memo(({ note, isHeld, isAt }: KeyProps) => (
  <div
    data-note={note}
    data-held={isHeld}
    data-at={isAt}
    className="key key-white"
    style={{ left: `${WHITES.indexOf(note) * WIDTH}%`, width: `${WIDTH}%` }}
  >
    {note % 12 === 0 && <span className="key-name mono">{noteName(note)}</span>}
  </div>
))
const BlackKey = memo(({ note, isHeld, isAt }: KeyProps) => {
  const before = WHITES.findIndex((white) => white > note)
  return (
    <div
      data-note={note}
      data-held={isHeld}
      data-at={isAt}
      className="key key-black"
      style={{ left: `${before * WIDTH - WIDTH * 0.3}%`, width: `${WIDTH * 0.6}%` }}
    />
  )
})

/** Plays by the keyboard's focus: arrows go from key to key, Enter and Space play it as long as they are held. */
const useCursor = () => {
  const { keyboard } = useApp()
  const [cursor, setCursor] = useState<number | undefined>(undefined)
  const pressed = useRef<number | undefined>(undefined)
  const release = (): void => {
    if (pressed.current !== undefined) keyboard.release(pressed.current)
    pressed.current = undefined
  }
  const onKeyDown = (event: KeyboardEvent): void => {
    const step = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0
    const isPlay = event.key === 'Enter' || event.key === ' '
    if ((step === 0 && !isPlay) || event.ctrlKey || event.metaKey) return
    event.preventDefault()
    event.stopPropagation()
    if (step !== 0) {
      release()
      setCursor(Math.min(LAST, Math.max(FIRST, (cursor ?? MIDDLE) + step)))
    } else if (pressed.current === undefined && !event.repeat) {
      pressed.current = cursor ?? MIDDLE
      keyboard.press(pressed.current)
    }
  }
  const lost = (): void => {
    release()
    setCursor(undefined)
  }
  return { cursor, handlers: { onKeyDown, onKeyUp: release, onFocus: () => setCursor(MIDDLE), onBlur: lost } }
}

/** Keys on screen, and how the computer's keys play: velocity by height, slide over them to play on. */
export const Keys = memo(() => {
  const { keyboard } = useApp()
  const { held, octave, velocity, isLatched, isRepeating } = useSyncExternalStore(
    keyboard.subscribe,
    keyboard.snapshot,
  )
  const { cursor, handlers } = useCursor()
  return (
    <div className="flex h-full flex-col gap-1 px-3 py-2">
      <div className="flex items-center gap-3 text-12 text-ink2">
        <span className="mono text-ink" data-octave="">
          A plays {noteName(12 * (octave + 1))}
        </span>
        <CommandButton command="octave-down" words="Z octave down" look="small" />
        <CommandButton command="octave-up" words="X octave up" look="small" />
        <span className="mono text-ink" data-velocity="">
          velocity {Math.round(velocity * 100)} %
        </span>
        <CommandButton command="softer" words="N softer" look="small" />
        <CommandButton command="louder" words="M louder" look="small" />
        <CommandButton command="latch" words="Latch" look="small" isPressed={isLatched} />
        <CommandButton
          command="repeat-test-note"
          words="Repeat a note"
          look="small"
          isPressed={isRepeating}
        />
        <span className="truncate">White keys from A, black keys in the row above.</span>
      </div>
      <div
        className="relative min-h-0 flex-1 touch-none select-none"
        role="group"
        tabIndex={0}
        aria-label={cursor === undefined ? 'Keys on screen' : `Keys on screen, ${noteName(cursor)}`}
        {...usePlaying()}
        {...handlers}
      >
        {WHITES.map((note) => (
          <WhiteKey key={note} note={note} isHeld={held.has(note)} isAt={cursor === note} />
        ))}
        {BLACKS.map((note) => (
          <BlackKey key={note} note={note} isHeld={held.has(note)} isAt={cursor === note} />
        ))}
      </div>
    </div>
  )
})
