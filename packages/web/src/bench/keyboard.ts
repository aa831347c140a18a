import { engine } from '../audio/engine-client.ts'

const WHITE_ROW = ['a', 'w', 's', 'e', 'd', 'f', 't', 'g', 'y', 'h', 'u', 'j', 'k', 'o', 'l', 'p', ';', "'"]
const TEST_ID = 9000

/** Notes held by computer keys and keys on screen. One object for the page; React reads it as an external store. */
class Keyboard {
  private notes: ReadonlySet<number> = new Set()
  private readonly listeners = new Set<() => void>()
  private readonly byKey = new Map<string, number>()
  private octave = 4
  private velocity = 0.8

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener)
    return () => {
      this.listeners.delete(listener)
    }
  }
  readonly held = (): ReadonlySet<number> => this.notes

  private update(next: Set<number>): void {
    this.notes = next
    for (const listener of this.listeners) listener()
  }

  press(note: number, velocity = this.velocity): void {
    void engine.start().then(() => {
      engine.noteOn(note, velocity, note)
    })
    this.update(new Set(this.notes).add(note))
  }
  release(note: number): void {
    engine.noteOff(note, note)
    const next = new Set(this.notes)
    next.delete(note)
    this.update(next)
  }
  releaseAll(): void {
    for (const note of this.notes) engine.noteOff(note, note)
    this.byKey.clear()
    this.update(new Set())
  }

  /** True when the key means something here. */
  down(key: string): boolean {
    const name = key.toLowerCase()
    if (name === 'z') {
      this.octave = Math.max(0, this.octave - 1)
      return true
    }
    if (name === 'x') {
      this.octave = Math.min(8, this.octave + 1)
      return true
    }
    if (name === 'n') {
      this.velocity = Math.max(0.1, this.velocity - 0.1)
      return true
    }
    if (name === 'm') {
      this.velocity = Math.min(1, this.velocity + 0.1)
      return true
    }
    const step = WHITE_ROW.indexOf(name)
    if (step < 0) return false
    if (!this.byKey.has(name)) {
      const note = Math.min(127, 12 * (this.octave + 1) + step)
      this.byKey.set(name, note)
      this.press(note)
    }
    return true
  }
  up(key: string): void {
    const name = key.toLowerCase()
    const note = this.byKey.get(name)
    if (note === undefined) return
    this.byKey.delete(name)
    this.release(note)
  }

  /** Plays a short note to hear whether anything sounds. */
  test(): void {
    void engine.start().then(() => {
      engine.noteOn(60, 0.8, TEST_ID)
      setTimeout(() => {
        engine.noteOff(60, TEST_ID)
      }, 600)
    })
  }
}

export const keyboard = new Keyboard()
