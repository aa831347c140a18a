import { noteName } from '@ypsilon/core'
import { memo, useEffect, useRef, useSyncExternalStore } from 'react'
import { keyboard } from './keyboard.ts'

const FIRST = 36,
  LAST = 84
const BLACK = new Set([1, 3, 6, 8, 10])
const isBlack = (note: number): boolean => BLACK.has(note % 12)

/** Keys on screen: velocity by height, slide over them to play on. */
export const Keys = memo(() => {
  const held = useSyncExternalStore(keyboard.subscribe, keyboard.held)
  const current = useRef<number | undefined>(undefined)
  const whites = Array.from({ length: LAST - FIRST + 1 }, (_, i) => FIRST + i).filter(
    (note) => !isBlack(note),
  )
  const width = 100 / whites.length
  const noteAt = (event: React.PointerEvent): { note: number; velocity: number } | undefined => {
    const key = document.elementFromPoint(event.clientX, event.clientY)?.closest<HTMLElement>('[data-note]')
    if (!key) return undefined
    const box = key.getBoundingClientRect()
    return {
      note: Number(key.dataset['note']),
      velocity: Math.min(1, Math.max(0.1, (event.clientY - box.top) / box.height)),
    }
  }
  const press = (event: React.PointerEvent): void => {
    const hit = noteAt(event)
    if (hit?.note === current.current) return
    if (current.current !== undefined) keyboard.release(current.current)
    current.current = hit?.note
    if (hit) keyboard.press(hit.note, hit.velocity)
  }
  const release = (): void => {
    if (current.current !== undefined) keyboard.release(current.current)
    current.current = undefined
  }
  useEffect(() => release, [])
  return (
    <div className="flex h-full flex-col gap-1 px-3 py-2">
      <p className="m-0 text-[12px] text-ink2">
        Computer keys play too: <kbd className="mono">A</kbd> to <kbd className="mono">L</kbd> white, the row
        above black, <kbd className="mono">Z</kbd> <kbd className="mono">X</kbd> octave,{' '}
        <kbd className="mono">N</kbd> <kbd className="mono">M</kbd> softer and louder.
      </p>
      <div
        className="relative min-h-0 flex-1 touch-none select-none"
        role="group"
        aria-label="Keys"
        onPointerDown={(event) => {
          ;(event.target as Element).releasePointerCapture?.(event.pointerId)
          press(event)
        }}
        onPointerMove={(event) => {
          if (event.buttons) press(event)
        }}
        onPointerUp={release}
        onPointerLeave={release}
      >
        {whites.map((note, index) => (
          <div
            key={note}
            data-note={note}
            className="absolute bottom-0 top-0 border border-rule"
            style={{
              left: `${index * width}%`,
              width: `${width}%`,
              background: held.has(note) ? 'var(--accent)' : 'var(--key-white)',
              borderRadius: '0 0 2px 2px',
            }}
          >
            {note % 12 === 0 && (
              <span className="mono pointer-events-none absolute bottom-0.5 left-1 text-[11px] text-[#566874]">
                {noteName(note)}
              </span>
            )}
          </div>
        ))}
        {Array.from({ length: LAST - FIRST + 1 }, (_, i) => FIRST + i)
          .filter(isBlack)
          .map((note) => {
            const before = whites.findIndex((white) => white > note)
            return (
              <div
                key={note}
                data-note={note}
                className="absolute top-0 h-[60%]"
                style={{
                  left: `${before * width - width * 0.3}%`,
                  width: `${width * 0.6}%`,
                  background: held.has(note) ? 'var(--accent)' : 'var(--key-black)',
                  borderRadius: '0 0 2px 2px',
                }}
              />
            )
          })}
      </div>
    </div>
  )
})
