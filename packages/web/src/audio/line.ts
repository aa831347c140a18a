/** The line to one worklet: numbered messages, and which of them it has taken. */
import type { FromWorklet, Numbered, ToWorklet } from './messages.ts'

/** What the line needs of a node's port. */
export interface Port {
  onmessage: ((event: MessageEvent<FromWorklet>) => void) | null
  postMessage(message: Numbered, transfer: Transferable[]): void
}

export class WorkletLine {
  private sent = 0
  private taken = 0
  private readonly waiting = new Map<number, () => void>()

  constructor(
    private readonly port: Port,
    receive: (message: FromWorklet) => void,
  ) {
    port.onmessage = ({ data }) => {
      if (data.type === 'report') this.note(data.taken)
      receive(data)
    }
  }

  /** Sends a message; its number. */
  send(message: ToWorklet, transfer: Transferable[] = []): number {
    this.sent += 1
    this.port.postMessage({ n: this.sent, message }, transfer)
    return this.sent
  }

  /** Resolves when the worklet has taken a message. */
  arrived(n: number): Promise<void> {
    return n <= this.taken
      ? Promise.resolve()
      : new Promise((resolve) => {
          this.waiting.set(n, resolve)
        })
  }

  private note(taken: number): void {
    this.taken = taken
    for (const [n, resolve] of this.waiting)
      if (n <= taken) {
        this.waiting.delete(n)
        resolve()
      }
  }

  /** Nothing is listened to any more. */
  cut(): void {
    this.port.onmessage = null
  }
}
