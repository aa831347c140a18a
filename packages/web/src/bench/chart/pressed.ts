/** Tells when a button of the pointer goes down and when it is up again: something may be dragged, anywhere on the page. */
export const whilePressed = (tell: (isPressed: boolean) => void): (() => void) => {
  const down = (): void => {
    tell(true)
  }
  const up = (): void => {
    tell(false)
  }
  window.addEventListener('pointerdown', down, true)
  window.addEventListener('pointerup', up, true)
  window.addEventListener('pointercancel', up, true)
  window.addEventListener('blur', up)
  return () => {
    window.removeEventListener('pointerdown', down, true)
    window.removeEventListener('pointerup', up, true)
    window.removeEventListener('pointercancel', up, true)
    window.removeEventListener('blur', up)
  }
}
