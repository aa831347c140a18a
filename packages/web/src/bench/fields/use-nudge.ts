/** Presses of a key that follow one another at once are one gesture, and so one step of the history. */
import { useRef } from 'react'
import type { App } from '../../app/app.ts'
import { newGesture } from './types.ts'

const NUDGE_MS = 700

/** The gesture a press belongs to: that of the one before it, or a new one. */
export const useNudge = ({ clock }: Pick<App, 'clock'>): (() => string) => {
  const last = useRef({ at: -Infinity, gesture: '' })
  return () => {
    const now = clock.now()
    if (now - last.current.at > NUDGE_MS) last.current.gesture = newGesture('nudge')
    last.current.at = now
    return last.current.gesture
  }
}
