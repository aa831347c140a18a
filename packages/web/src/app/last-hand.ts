/** Who acted last, the mouse or the keyboard: where the focus goes when something over the page has closed. */
export class LastHand {
  isMouse = false
  private readonly byMouse = (): void => {
    this.isMouse = true
  }
  private readonly byKeys = (): void => {
    this.isMouse = false
  }
  listen(): () => void {
    window.addEventListener('pointerdown', this.byMouse, true)
    window.addEventListener('keydown', this.byKeys, true)
    return () => {
      window.removeEventListener('pointerdown', this.byMouse, true)
      window.removeEventListener('keydown', this.byKeys, true)
    }
  }
}
