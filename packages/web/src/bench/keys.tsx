import { noteName } from '@ypsilon/core'
import { memo, type PointerEvent, useEffect, useRef, useSyncExternalStore } from 'react'
import { useApp } from '../app/context.ts'
import { CommandButton } from '../app/command-button.tsx'

const FIRST = 36,
  LAST = 84
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
}

const WhiteKey = memo(({ note, isHeld }: KeyProps) => (
  <div
    data-note={note}
    data-held={isHeld}
    className="key key-white"
    style={{ left: `${WHITES.indexOf(note) * WIDTH}%`, width: `${WIDTH}%` }}
  >
    {note % 12 === 0 && <span className="key-name mono">{noteName(note)}</span>}
  </div>
))
const BlackKey = memo(({ note, isHeld }: KeyProps) => {
  const before = WHITES.findIndex((white) => white > note)
  return (
    <div
      data-note={note}
      data-held={isHeld}
      className="key key-black"
      style={{ left: `${before * WIDTH - WIDTH * 0.3}%`, width: `${WIDTH * 0.6}%` }}
    />
  )
})

/** Keys on screen, and how the computer's keys play: velocity by height, slide over them to play on. */
export const Keys = memo(() => {
  const { keyboard } = useApp()
  const { held, octave, velocity } = useSyncExternalStore(keyboard.subscribe, keyboard.snapshot)
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
        <span className="truncate">White keys from A, black keys in the row above.</span>
      </div>
      <div
        className="relative min-h-0 flex-1 touch-none select-none"
        role="group"
        aria-label="Keys on screen"
        {...usePlaying()}
      >
        {WHITES.map((note) => (
          <WhiteKey key={note} note={note} isHeld={held.has(note)} />
        ))}
        {BLACKS.map((note) => (
          <BlackKey key={note} note={note} isHeld={held.has(note)} />
        ))}
      </div>
    </div>
  )
})
