/** How often it is looked whether the worklet still answers, and for how long it may be silent. */
const LOOK_MS = 500
const SILENT_MS = 2500
/** Looks in a row that must find it silent: one alone may come before messages that wait. */
const LOOKS = 2

/** Notices a worklet that has stopped answering although its context says that it runs. */
export class Pulse {
  private last = 0
  private silent = 0
  private timer: ReturnType<typeof setInterval> | undefined

  beat(): void {
    this.last = performance.now()
    this.silent = 0
  }

  begin(runs: () => boolean, stalled: () => void): void {
    this.end()
    this.beat()
    let before = performance.now()
    this.timer = setInterval(() => {
      const now = performance.now(),
        slept = now - before > 2 * LOOK_MS
      before = now
      // A page that slept or was held up itself knows nothing yet.
      if (!runs() || slept) {
        this.beat()
        return
      }
      this.silent = now - this.last > SILENT_MS ? this.silent + 1 : 0
      if (this.silent >= LOOKS) stalled()
    }, LOOK_MS)
  }

  end(): void {
    clearInterval(this.timer)
  }
}
