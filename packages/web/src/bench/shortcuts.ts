import { own } from '@ypsilon/core'
import { useEffect } from 'react'
import { engine } from '../audio/engine-client.ts'
import { useSession } from '../store/session.ts'
import {
  backToSet,
  bypassSelected,
  type Command,
  deleteSelected,
  duplicateSelected,
  duplicateWithCables,
  keepMoved,
  recallSnapshot,
  redoCommand,
  selectAll,
  undoCommand,
} from './commands.ts'
import { keyboard } from './keyboard.ts'

const WITH_CTRL: Readonly<Record<string, Command>> = {
  z: undoCommand,
  y: redoCommand,
  d: duplicateSelected,
  b: bypassSelected,
  a: selectAll,
  enter: keepMoved,
  backspace: backToSet,
}
const WITH_CTRL_SHIFT: Readonly<Record<string, Command>> = { z: redoCommand, d: duplicateWithCables }
const TWICE_MS = 500

/** What the shortcut sheet shows. */
export const SHORTCUTS: readonly (readonly [keys: string, what: string])[] = [
  ['/', 'Find and add a part (or double-click the chart)'],
  ['Ctrl+K', 'Connect by typing: osc saw > filter in * 0.5'],
  ['Enter', 'Type a value in the field with the focus'],
  ['← → ↑ ↓', 'Change the field with the focus (Shift: finely)'],
  ['Ctrl+Z', 'Undo'],
  ['Ctrl+Shift+Z', 'Redo'],
  ['Ctrl+D', 'Duplicate with the wiring between'],
  ['Ctrl+Shift+D', 'Duplicate with the wiring into it too'],
  ['Ctrl+B', 'Bypass'],
  ['Ctrl+A', 'Select all'],
  ['1 … 9', 'Recall the snapshot with that key'],
  ['Ctrl+Enter', 'Keep as set: what was moved goes into the patch'],
  ['Ctrl+Backspace', 'Back to set: what was moved goes back'],
  ['Backspace', 'Delete the selected modules or cable'],
  ['F2', 'Rename the selected module'],
  ['Space', 'Start and stop the transport'],
  ['Shift+Space', 'Play a test note'],
  ['Esc Esc', 'Silence everything'],
  ['A … L', 'Play; the row above is the black keys'],
  ['Z X', 'Octave down, up'],
  ['N M', 'Softer, louder'],
  ['Shift+click', 'On an output: look at it in the probe'],
  ['Shift+drag', 'On the chart: select several modules'],
  ['?', 'This sheet'],
]

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof Element && target.closest('input, textarea, select, [contenteditable]') !== null

export const useShortcuts = (): void => {
  useEffect(() => {
    let lastEscape = 0
    const down = (event: KeyboardEvent): void => {
      if (isTyping(event.target) || event.defaultPrevented) return
      const key = event.key.toLowerCase()
      if (event.ctrlKey || event.metaKey) {
        if (key === 'k') {
          event.preventDefault()
          useSession.getState().set({ connecting: true })
          return
        }
        const command = own(event.shiftKey ? WITH_CTRL_SHIFT : WITH_CTRL, key)
        if (!command) return
        event.preventDefault()
        if (command.can()) command.run()
        return
      }
      if (event.altKey) return
      if (event.key === 'Backspace' || event.key === 'Delete') {
        if (deleteSelected.can()) {
          event.preventDefault()
          deleteSelected.run()
        }
        return
      }
      if (event.key === ' ') {
        if (event.target instanceof HTMLButtonElement) return
        event.preventDefault()
        if (event.shiftKey) keyboard.test()
        else {
          const { running, set } = useSession.getState()
          set({ running: !running })
          engine.setTransport(!running)
        }
        return
      }
      if (event.key === '?') {
        event.preventDefault()
        useSession.getState().set({ shortcuts: true })
        return
      }
      if (event.key === 'Escape') {
        const now = performance.now()
        if (now - lastEscape < TWICE_MS) {
          keyboard.releaseAll()
          engine.silence()
        }
        lastEscape = now
        useSession.getState().set({ finder: undefined, selection: [], cable: undefined })
        return
      }
      if (!event.repeat && /^[1-9]$/.test(event.key) && recallSnapshot(event.key)) {
        event.preventDefault()
        return
      }
      if (!event.repeat && keyboard.down(event.key)) event.preventDefault()
    }
    const up = (event: KeyboardEvent): void => {
      keyboard.up(event.key)
    }
    const away = (): void => {
      keyboard.releaseAll()
    }
    window.addEventListener('keydown', down)
    window.addEventListener('keyup', up)
    window.addEventListener('blur', away)
    return () => {
      window.removeEventListener('keydown', down)
      window.removeEventListener('keyup', up)
      window.removeEventListener('blur', away)
    }
  }, [])
}
