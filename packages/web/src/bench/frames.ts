/**
 * Everything that moves on the bench is drawn here, once a frame, from what the worklet last reported. React is not
 * involved: rows register their canvas, their tick, their mark.
 */
import {
  type NumberParam,
  noteName,
  type ParamDescription,
  type ParamValue,
  type SignalKind,
  toScale,
} from '@ypsilon/core'
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

interface Trace {
  readonly canvas: HTMLCanvasElement
  readonly key: string
  readonly kind: SignalKind
  readonly history: Float32Array
  at: number
}
interface Tick {
  readonly element: HTMLElement
  readonly key: string
  readonly param: NumberParam
}

/** Where a moved value stands, beside the set one: a notch on the scale, or the word that is heard. */
interface MovedMark {
  readonly element: HTMLElement
  readonly target: string
  readonly param: ParamDescription
  shown: ParamValue | undefined
}

const STRIP = 56
/** Frames between two looks at which moved rows are on the page. */
const LOOK_FRAMES = 15

/** The page's frame loop: runs while there is something to draw. */
export class Frames implements Ink {
  private readonly traces = new Set<Trace>()
  private readonly marks = new Set<MovedMark>()
  private readonly ticks = new Set<Tick>()
  private readonly painters = new Set<(ink: Ink) => void>()
  private readonly colours = new Map<string, string>()
  private scheduled = 0
  private looked = 0

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

  trace(canvas: HTMLCanvasElement, key: string, kind: SignalKind): () => void {
    const ratio = Math.min(2, window.devicePixelRatio || 1)
    canvas.width = STRIP * ratio
    canvas.height = 16 * ratio
    return this.add(this.traces, { canvas, key, kind, history: new Float32Array(STRIP * 2), at: 0 })
  }

  tick(element: HTMLElement, key: string, param: NumberParam): () => void {
    return this.add(this.ticks, { element, key, param })
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
    for (const trace of this.traces) if (trace.canvas.isConnected) drawTrace(trace, this)
    for (const tick of this.ticks) drawTick(tick, this)
    this.watchMoved()
    for (const mark of this.marks) this.drawMoved(mark)
    for (const painter of this.painters) painter(this)
    if (this.traces.size + this.ticks.size + this.marks.size + this.painters.size > 0) this.wake()
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

const drawTick = ({ element, key, param }: Tick, ink: Ink): void => {
  const picture = ink.picture(key)
  element.style.visibility = picture ? 'visible' : 'hidden'
  if (!picture) return
  const width = element.parentElement?.clientWidth ?? 0
  element.style.transform = `translateX(${Math.min(1, Math.max(0, toScale(param, picture.last))) * width}px)`
}

const drawTrace = (trace: Trace, ink: Ink): void => {
  const picture = ink.picture(trace.key)
  const { canvas, kind } = trace
  const context = canvas.getContext('2d')!
  const ratio = canvas.width / 56
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  context.clearRect(0, 0, 56, 16)
  context.lineWidth = 1.25
  context.strokeStyle = ink.colour(kind)
  context.beginPath()
  if (!picture) {
    context.moveTo(0, 8)
    context.lineTo(56, 8)
    context.globalAlpha = 0.35
  } else if (kind === 'audio') drawWave(context, picture)
  else drawStrip(context, trace, picture, ink)
  context.stroke()
  context.globalAlpha = 1
}

/** One or two cycles of the wave, from a rising crossing, scaled to fit. */
const drawWave = (context: CanvasRenderingContext2D, { ring, position, min, max }: Picture): void => {
  const size = Math.max(0.05, Math.abs(min), Math.abs(max))
  const at = (i: number): number => ring[(position + i) % 512]!
  let start = 0
  for (let i = 1; i < 256; i += 1)
    if (at(i - 1) <= 0 && at(i) > 0) {
      start = i
      break
    }
  const span = Math.min(256, 511 - start)
  for (let x = 0; x <= 56; x += 1) {
    const y = 8 - (7 * at(start + Math.floor((x / 56) * span))) / size
    if (x === 0) context.moveTo(x, y)
    else context.lineTo(x, y)
  }
}

const drawStrip = (context: CanvasRenderingContext2D, trace: Trace, picture: Picture, ink: Ink): void => {
  const { history } = trace
  history[(trace.at % STRIP) * 2] = picture.min
  history[(trace.at % STRIP) * 2 + 1] = picture.max
  trace.at += 1
  let low = trace.kind === 'gate' ? 0 : Infinity,
    high = trace.kind === 'gate' ? 1 : -Infinity
  if (trace.kind !== 'gate')
    for (let i = 0; i < STRIP * 2; i += 1) {
      low = Math.min(low, history[i]!)
      high = Math.max(high, history[i]!)
    }
  const least = trace.kind === 'pitch' ? 0.5 : 0.2
  if (high - low < least) {
    const middle = (high + low) / 2
    low = middle - least / 2
    high = middle + least / 2
  }
  for (let x = 0; x < STRIP; x += 1) {
    const slot = ((trace.at + x) % STRIP) * 2
    const a = 14.5 - (13 * (history[slot]! - low)) / (high - low),
      b = 14.5 - (13 * (history[slot + 1]! - low)) / (high - low)
    if (x === 0) context.moveTo(x, a)
    else context.lineTo(x, a)
    if (Math.abs(a - b) > 0.5) context.lineTo(x, b)
  }
  if (trace.kind === 'pitch') {
    context.font = '9px "Atkinson Hyperlegible Mono Variable", monospace'
    context.fillStyle = ink.colour('ink2')
    context.fillText(noteName(Math.round(60 + 12 * picture.last)), 0, 8)
  }
}
