/** The keyboard of the page: commands by their keys, notes by the place of the key, Escape and silence. */
import type { App } from './app.ts'
import type { Command, View } from '../commands/command.ts'
import { canRun, runCommand } from '../commands/registry.ts'

/** Two within this silence everything. */
const TWICE_MS = 400
/** Three within this do, whatever the first of them gave up. */
const THRICE_MS = 1200

/** Does a caret blink there? */
export const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    target instanceof HTMLTextAreaElement ||
    (target instanceof HTMLInputElement && !/^(button|checkbox|radio|range|file|submit)$/.test(target.type)))

const isLetter = (event: KeyboardEvent): boolean => /^(Key[A-Z]|Semicolon|Quote)$/.test(event.code)
const isPlain = ({ ctrlKey, metaKey, altKey }: KeyboardEvent): boolean => !ctrlKey && !metaKey && !altKey

/** Counts presses of Escape: twice silences everything, unless the first gave something up; three times always. */
export class EscapeCount {
  private presses: { readonly at: number; readonly gaveUp: boolean }[] = []

  constructor(private readonly silence: () => void) {}

  /** One press; `gaveUp` where it ended typing, a drag, a menu or a dialog. */
  press(at: number, gaveUp: boolean): void {
    const recent = this.presses.filter((press) => at - press.at <= THRICE_MS)
    const last = recent.at(-1)
    const isTwice = last !== undefined && !last.gaveUp && at - last.at <= TWICE_MS
    if (isTwice || recent.length >= 2) {
      this.presses = []
      this.silence()
    } else this.presses = [...recent, { at, gaveUp }]
  }
}

/** Escape on the bench: listening or the focus ends, or nothing is selected. What is given up does not count towards silence. */
const giveUp = ({ workspace }: App, event: KeyboardEvent): void => {
  const { focus, focusOn, listening, listen, select } = workspace.getState()
  if (focus === undefined && listening === undefined) {
    select([])
    return
  }
  event.preventDefault()
  if (listening) listen(undefined)
  else focusOn(undefined)
}

/** Listens to the keyboard; given back: how to stop. */
export const listenToKeys = (app: App, viewNow: () => View): (() => void) => {
  const { commands, keyboard } = app
  const escapes = new EscapeCount(() => {
    runCommand(commands.get('silence'), app)
  })

  /** Notes come before everything that would take letters for something else: menus search by them. */
  const notes = (event: KeyboardEvent): void => {
    if (event.key === 'Escape' && !event.repeat)
      // What gives something up says so by preventing the default, whoever it is and whenever.
      setTimeout(() => {
        escapes.press(event.timeStamp, event.defaultPrevented)
      })
    if (event.key === 'Meta') keyboard.releaseAll()
    if (isTyping(event.target) || !isPlain(event) || !isLetter(event)) return
    // A character that is a command's is not a key's: keyboards differ.
    if (!/^\p{L}$/u.test(event.key) && commands.forKey(event, viewNow())) return
    event.preventDefault()
    event.stopPropagation()
    if (!event.repeat) keyboard.down(event.code)
  }

  const act = (event: KeyboardEvent): void => {
    if (event.defaultPrevented) return
    if (event.key === 'Escape') {
      giveUp(app, event)
      return
    }
    const command = commands.forKey(event, viewNow())
    if (!command || isElsewhere(app, event, command) || canRun(command, app) !== true) return
    event.preventDefault()
    if (!event.repeat || command.repeats) command.run(app)
  }
  const up = (event: KeyboardEvent): void => {
    keyboard.up(event.code)
  }
  const away = (): void => {
    keyboard.releaseAll()
  }
  const hidden = (): void => {
    if (document.hidden) keyboard.releaseAll()
  }
  window.addEventListener('keydown', notes, true)
  window.addEventListener('keydown', act)
  window.addEventListener('keyup', up, true)
  window.addEventListener('blur', away)
  document.addEventListener('visibilitychange', hidden)
  return () => {
    window.removeEventListener('keydown', notes, true)
    window.removeEventListener('keydown', act)
    window.removeEventListener('keyup', up, true)
    window.removeEventListener('blur', away)
    document.removeEventListener('visibilitychange', hidden)
  }
}

/** What lies over the page and keeps the focus while it is open. */
const OVER = '[role="dialog"], .menu'

/** Is the key meant for something else: a caret, a dialog, a button that has the focus? */
const isElsewhere = (
  { workspace }: App,
  event: KeyboardEvent,
  { isForTyping, isNative }: Command,
): boolean => {
  if (isNative) return true
  if (isForTyping) return false
  if (isTyping(event.target) || workspace.getState().dialog !== undefined) return true
  return event.key === ' ' && event.target instanceof HTMLButtonElement
}

const BUTTONS = 'button, a, [role="tab"], [role="switch"], [role="menuitem"], [role="slider"]'

/**
 * After a press of the mouse on a button or tab, or a drag of a field, the focus goes back to the chart: what is typed
 * next is meant for the patch. What the keyboard focuses keeps the focus.
 */
export const returnFocus = (app: App): (() => void) => {
  const click = (event: MouseEvent): void => {
    // The path stands as it was: what was clicked may have been drawn anew by now.
    const path = event.composedPath().filter((item) => item instanceof Element),
      active = document.activeElement
    const isOn = (selector: string): boolean => path.some((element) => element.matches(selector))
    // A click of the keyboard has no pointer.
    if (event.detail === 0 || !isOn(BUTTONS) || isOn(OVER)) return
    if (isTyping(active) || active?.closest(`${OVER}, [role="slider"]`)) return
    app.chart.focus()
  }
  window.addEventListener('click', click)
  return () => {
    window.removeEventListener('click', click)
  }
}
