/** Notes held by computer keys, keys on screen and MIDI: who holds what, so that nothing sounds for ever. */

/** What the keys need of the engine. */
export interface KeysEngine {
  start(): Promise<void>
  noteOn(note: number, velocity: number, id: number): void
  noteOff(note: number, id: number): void
}

/** What the keys show. */
export interface KeysState {
  /** Notes that sound from keys here or from MIDI. */
  readonly held: ReadonlySet<number>
  /** Octave of the key A: 4 begins at C4. */
  readonly octave: number
  /** 0…1, of computer keys. */
  readonly velocity: number
  /** Notes go on after their keys are let go, until they are pressed again. */
  readonly isLatched: boolean
  /** The test note comes again and again. */
  readonly isRepeating: boolean
}

/** By place on the keyboard, from C upward: the row from A is white, the row above black. */
const NOTE_KEYS = [
  'KeyA',
  'KeyW',
  'KeyS',
  'KeyE',
  'KeyD',
  'KeyF',
  'KeyT',
  'KeyG',
  'KeyY',
  'KeyH',
  'KeyU',
  'KeyJ',
  'KeyK',
  'KeyO',
  'KeyL',
  'KeyP',
  'Semicolon',
  'Quote',
]
const STEPS: ReadonlyMap<string, number> = new Map(NOTE_KEYS.map((code, step) => [code, step]))
const TEST_ID = 9000
const TEST_MS = 600,
  REPEAT_MS = 1500
const TEST_NOTE = 60
const HIGHEST = 8
const VELOCITY_STEP = 0.1

export class Keyboard {
  private state: KeysState = {
    held: new Set(),
    octave: 4,
    velocity: 0.8,
    isLatched: false,
    isRepeating: false,
  }
  private readonly listeners = new Set<() => void>()
  /** Note that each key holds, by its place. */
  private readonly byCode = new Map<string, number>()
  /** How many hold a note: a key here, one on screen, a device. */
  private readonly holders = new Map<number, number>()
  /** Notes that are held though no key is. */
  private readonly latched = new Set<number>()
  private repeating: ReturnType<typeof setInterval> | undefined

  constructor(
    private readonly engine: KeysEngine,
    private readonly failed: (error: unknown) => void,
  ) {}

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener)
    return () => {
      this.listeners.delete(listener)
    }
  }
  readonly snapshot = (): KeysState => this.state

  private set(state: Partial<KeysState>): void {
    this.state = { ...this.state, ...state }
    for (const listener of this.listeners) listener()
  }

  private hold(note: number, by: 1 | -1): void {
    const count = (this.holders.get(note) ?? 0) + by
    if (count > 0) this.holders.set(note, count)
    else this.holders.delete(note)
    this.set({ held: new Set(this.holders.keys()) })
  }

  /** Shows a note that something else plays: MIDI. */
  show(note: number, isOn: boolean): void {
    this.hold(note, isOn ? 1 : -1)
  }

  press(note: number, velocity = this.state.velocity): void {
    if (this.latched.delete(note)) {
      this.release(note)
      return
    }
    this.engine.start().catch(this.failed)
    this.engine.noteOn(note, velocity, note)
    this.hold(note, 1)
    if (this.state.isLatched) this.latched.add(note)
  }
  release(note: number): void {
    if (this.latched.has(note) || !this.holders.has(note)) return
    this.engine.noteOff(note, note)
    this.hold(note, -1)
  }

  /** Holds notes from now on, or lets go of all that are held so. */
  latch(isLatched: boolean): void {
    this.set({ isLatched })
    if (isLatched) return
    const held = [...this.latched]
    this.latched.clear()
    const pressed = new Set(this.byCode.values())
    for (const note of held) if (!pressed.has(note)) this.release(note)
  }

  /** Everything is to be quiet: nothing is held, nothing comes again. */
  silence(): void {
    this.releaseAll()
    const held = [...this.latched]
    this.latched.clear()
    for (const note of held) this.release(note)
    this.repeat(false)
  }

  /** Lets go of every computer key: the window, the tab or the hands are elsewhere. */
  releaseAll(): void {
    for (const code of [...this.byCode.keys()]) this.up(code)
  }

  /** A key went down, by its place; true when it means something here. */
  down(code: string): boolean {
    const { octave, velocity } = this.state
    switch (code) {
      case 'KeyZ':
        this.set({ octave: Math.max(0, octave - 1) })
        return true
      case 'KeyX':
        this.set({ octave: Math.min(HIGHEST, octave + 1) })
        return true
      case 'KeyN':
        this.set({ velocity: Math.max(VELOCITY_STEP, velocity - VELOCITY_STEP) })
        return true
      case 'KeyM':
        this.set({ velocity: Math.min(1, velocity + VELOCITY_STEP) })
        return true
    }
    const step = STEPS.get(code)
    if (step === undefined) return false
    if (!this.byCode.has(code)) {
      const note = Math.min(127, 12 * (octave + 1) + step)
      this.byCode.set(code, note)
      this.press(note)
    }
    return true
  }
  up(code: string): void {
    const note = this.byCode.get(code)
    if (note === undefined) return
    this.byCode.delete(code)
    this.release(note)
  }

  /** Plays a short note to hear whether anything sounds. */
  test(): void {
    this.engine.start().catch(this.failed)
    this.engine.noteOn(TEST_NOTE, this.state.velocity, TEST_ID)
    setTimeout(() => {
      this.engine.noteOff(TEST_NOTE, TEST_ID)
    }, TEST_MS)
  }

  /** Plays the test note again and again, until it is told to stop. */
  repeat(isRepeating: boolean): void {
    clearInterval(this.repeating)
    this.repeating = undefined
    this.set({ isRepeating })
    if (!isRepeating) return
    this.test()
    this.repeating = setInterval(() => {
      this.test()
    }, REPEAT_MS)
  }
}
