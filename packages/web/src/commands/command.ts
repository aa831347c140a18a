/** Commands: everything that can be done by name. Menus, keys, palette, buttons, tooltips and sheet are made from them. */
import type { App } from '../app/app.ts'

export type View = 'bench' | 'guide' | 'devices'
export type Group = 'Patch' | 'Edit' | 'Add and connect' | 'Play' | 'Look' | 'Page'
/** Where the context menu offers it. */
export type Place = 'module' | 'cable' | 'chart'

export interface Command {
  readonly id: string
  readonly label: string
  readonly group: Group
  /** As `chordOf` writes them; the first is shown. */
  readonly keys?: readonly string[]
  /** The views it can be used in; left out: everywhere. What changes the patch is for where the patch is seen. */
  readonly views?: readonly View[]
  readonly places?: readonly Place[]
  /** Also while a caret blinks. */
  readonly isForTyping?: boolean
  /** Its key is the browser's own, which tells of it by an event. */
  readonly isNative?: boolean
  /** Again and again while its key is held. */
  readonly repeats?: boolean
  /** Why not, in words, where it cannot be done now. */
  can?(app: App): true | string
  run(app: App): void
}

/** What is known of a key press. */
export type KeyPress = Pick<KeyboardEvent, 'key' | 'code' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>

const NAMES: ReadonlyMap<string, string> = new Map([
  [' ', 'Space'],
  ['Esc', 'Escape'],
  ['Del', 'Delete'],
])

/** The key without its modifiers: a character in capitals, or a name. */
const nameOf = ({ key }: KeyPress): string => NAMES.get(key) ?? (key.length === 1 ? key.toUpperCase() : key)

/** A digit with Shift, by its place: `Shift+0`. What character that gives differs between keyboards. */
export const digitChordOf = ({ code, shiftKey }: KeyPress): string | undefined => {
  const digit = shiftKey ? /^Digit(\d)$/.exec(code)?.[1] : undefined
  return digit === undefined ? undefined : `Shift+${digit}`
}

/** A key press as commands name it: by its character, `Ctrl+Shift+Z`, `?`, `Shift+Space`. */
export const chordOf = (press: KeyPress): string => {
  const name = nameOf(press)
  // Shift is part of what a character is, but not of letters, digits and named keys.
  const saysShift = press.shiftKey && (name.length > 1 || /[A-Z0-9]/.test(name))
  return [
    ...(press.ctrlKey || press.metaKey ? ['Ctrl'] : []),
    ...(press.altKey ? ['Alt'] : []),
    ...(saysShift ? ['Shift'] : []),
    name,
  ].join('+')
}

const isApple = (): boolean => /Mac|iPhone|iPad/.test(navigator.platform)
const SYMBOLS: ReadonlyMap<string, string> = new Map([
  ['ArrowLeft', '←'],
  ['ArrowRight', '→'],
  ['ArrowUp', '↑'],
  ['ArrowDown', '↓'],
  ['Escape', 'Esc'],
  ['Escape Escape', 'Esc Esc'],
])
/** Keys as people read them. */
export const keyWords = (chord: string): string =>
  chord
    .split(/\+(?=.)/)
    .map((part) => (part === 'Ctrl' && isApple() ? '⌘' : (SYMBOLS.get(part) ?? part)))
    .join('+')
