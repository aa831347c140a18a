/**
 * Everything that moves on the bench is drawn here, once a frame, from what the worklet last reported. React is not
 * involved: rows register their tick and their mark, pictures their painter.
 */
import { type NumberParam, type ParamDescription, type ParamValue, toScale } from '@ypsilon/core'
import type { Picture } from '../audio/pictures.ts'

/** What pictures are drawn from and with. */
export interface Ink {
  /** A colour of the present theme. */
  colour(name: string): string
  /** What a signal looked like in the last report. */
  picture(key: string): Picture | undefined
}

/** What the frames need of the engine. */
export interface FramesEngine {
  picture(key: string): Picture | undefined
  movedValue(target: string): ParamValue | undefined
  watchMoved(keys: readonly string[]): void
}

interface Tick {
  readonly element: HTMLElement
  readonly key: string
  readonly param: NumberParam
  /** Where it stands, in thousandths of the scale; none while it is hidden. */
  shown: number | undefined
}

/** Where a moved value stands, beside the set one: a notch on the scale, or the word that is heard. */
interface MovedMark {
  readonly element: HTMLElement
  readonly target: string
  readonly param: ParamDescription
  shown: ParamValue | undefined
}

/** Frames between two looks at which moved rows are on the page. */
const LOOK_FRAMES = 15
/** Frames between two times that ticks and marks are moved. */
const TURN_FRAMES = 3

/** The page's frame loop: runs while there is something to draw. */
export class Frames implements Ink {
  private readonly marks = new Set<MovedMark>()
  private readonly ticks = new Set<Tick>()
  private readonly painters = new Set<(ink: Ink) => void>()
  private readonly colours = new Map<string, string>()
  private readonly colourListeners = new Set<() => void>()
  private scheduled = 0
  private looked = 0
  private turn = 0

  constructor(private readonly engine: FramesEngine) {}

  /** Read once a theme: computed styles are too dear for every frame. */
  colour(name: string): string {
    let value = this.colours.get(name)
    if (value === undefined) {
      value = getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim()
      this.colours.set(name, value)
    }
    return value
  }
  forgetColours(): void {
    this.colours.clear()
    for (const listener of this.colourListeners) listener()
  }
  /** Told when colours are others: what is not drawn every frame is drawn anew. */
  onColours(listener: () => void): () => void {
    this.colourListeners.add(listener)
    return () => this.colourListeners.delete(listener)
  }
  picture(key: string): Picture | undefined {
    return this.engine.picture(key)
  }

  private add<T>(all: Set<T>, item: T): () => void {
    all.add(item)
    this.wake()
    return () => {
      all.delete(item)
    }
  }

  tick(element: HTMLElement, key: string, param: NumberParam): () => void {
    return this.add(this.ticks, { element, key, param, shown: undefined })
  }

  /** For the `ref` of a mark: drawn as long as it is on the page. */
  mark(element: HTMLElement | null, target: string, param: ParamDescription): (() => void) | undefined {
    return element ? this.add(this.marks, { element, target, param, shown: undefined }) : undefined
  }

  /** Further pictures: probes, meters. */
  paint(painter: (ink: Ink) => void): () => void {
    return this.add(this.painters, painter)
  }

  private wake(): void {
    if (!this.scheduled)
      this.scheduled = requestAnimationFrame(() => {
        this.frame()
      })
  }

  private frame(): void {
    this.scheduled = 0
    this.turn = (this.turn + 1) % TURN_FRAMES
    if (this.turn === 0) {
      for (const tick of this.ticks) drawTick(tick, this)
      for (const mark of this.marks) this.drawMoved(mark)
    }
    this.watchMoved()
    for (const painter of this.painters) painter(this)
    if (this.ticks.size + this.marks.size + this.painters.size > 0) this.wake()
  }

  /** What was moved and is seen is watched as well: on its way the mark shows where it is, not where it goes. */
  private watchMoved(): void {
    this.looked = (this.looked + 1) % LOOK_FRAMES
    if (this.looked !== 0) return
    const seen = [...this.marks].filter(
      ({ target, param }) => param.kind === 'number' && this.engine.movedValue(target) !== undefined,
    )
    this.engine.watchMoved(seen.map(({ target }) => `=${target}`))
  }

  private drawMoved(mark: MovedMark): void {
    const { element, param, target } = mark
    const goal = this.engine.movedValue(target)
    const value =
      goal !== undefined && param.kind === 'number' ? (this.picture(`=${target}`)?.last ?? goal) : goal
    if (value === mark.shown) return
    mark.shown = value
    element.style.visibility = value === undefined ? 'hidden' : 'visible'
    if (value === undefined) return
    if (param.kind === 'number')
      element.style.left = `${Math.min(1, Math.max(0, toScale(param, Number(value)))) * 100}%`
    else element.textContent = value === true ? 'on' : value === false ? 'off' : String(value)
  }
}

/** The tick is as wide as its scale: it is moved by a share of itself, and nothing is measured. */
const drawTick = (tick: Tick, ink: Ink): void => {
  const { element, key, param } = tick
  const picture = ink.picture(key)
  const place = picture
    ? Math.round(1000 * Math.min(1, Math.max(0, toScale(param, picture.last))))
    : undefined
  if (place === tick.shown) return
  tick.shown = place
  element.style.visibility = place === undefined ? 'hidden' : 'visible'
  if (place !== undefined) element.style.transform = `translateX(${place / 10}%)`
}
