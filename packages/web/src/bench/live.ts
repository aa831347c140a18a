/**
 * Everything that moves on the bench is drawn here, once a frame, from what the worklet last reported. React is not
 * involved: rows register their canvas, ticks are found by their `data-live`.
 */
import {
  type NumberParam,
  noteName,
  type ParamDescription,
  type ParamValue,
  type SignalKind,
  toScale,
} from '@ypsilon/core'
import { engine, type Picture } from '../audio/engine-client.ts'

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

const traces = new Set<Trace>()
const marks = new Set<MovedMark>()
const ticks = new Set<Tick>()
const painters = new Set<() => void>()
const STRIP = 56
let scheduled = 0

const colours = new Map<string, string>()
/** Read once a theme: computed styles are too dear for every frame. */
export const colour = (name: string): string => {
  let value = colours.get(name)
  if (value === undefined) {
    value = getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim()
    colours.set(name, value)
  }
  return value
}
export const forgetColours = (): void => {
  colours.clear()
}

const wake = (): void => {
  if (!scheduled) scheduled = requestAnimationFrame(frame)
}

export const registerTrace = (canvas: HTMLCanvasElement, key: string, kind: SignalKind): (() => void) => {
  const trace: Trace = { canvas, key, kind, history: new Float32Array(STRIP * 2), at: 0 }
  const ratio = Math.min(2, window.devicePixelRatio || 1)
  canvas.width = 56 * ratio
  canvas.height = 16 * ratio
  traces.add(trace)
  wake()
  return () => {
    traces.delete(trace)
  }
}

export const registerTick = (element: HTMLElement, key: string, param: NumberParam): (() => void) => {
  const tick: Tick = { element, key, param }
  ticks.add(tick)
  wake()
  return () => {
    ticks.delete(tick)
  }
}

/** For the `ref` of a mark: drawn as long as it is on the page. */
export const registerMoved = (
  element: HTMLElement | null,
  target: string,
  param: ParamDescription,
): (() => void) | undefined => {
  if (!element) return undefined
  const mark: MovedMark = { element, target, param, shown: undefined }
  marks.add(mark)
  wake()
  return () => {
    marks.delete(mark)
  }
}

/** Further pictures of the frame loop: probes, meters. */
export const registerPainter = (painter: () => void): (() => void) => {
  painters.add(painter)
  wake()
  return () => {
    painters.delete(painter)
  }
}

const frame = (): void => {
  scheduled = 0
  for (const trace of traces) if (trace.canvas.isConnected) drawTrace(trace)
  for (const tick of ticks) drawTick(tick)
  watchMoved()
  for (const mark of marks) drawMoved(mark)
  for (const painter of painters) painter()
  if (traces.size + ticks.size + marks.size + painters.size > 0) wake()
}

/** Frames between two looks at which moved rows are on the page. */
const LOOK_FRAMES = 15
let looked = 0

/** What was moved and is seen is watched as well: on its way the mark shows where it is, not where it goes. */
const watchMoved = (): void => {
  looked = (looked + 1) % LOOK_FRAMES
  if (looked !== 0) return
  const seen = [...marks].filter(
    ({ target, param }) => param.kind === 'number' && engine.movedValue(target) !== undefined,
  )
  engine.watchMoved(seen.map(({ target }) => `=${target}`))
}

const drawMoved = (mark: MovedMark): void => {
  const { element, param, target } = mark
  const goal = engine.movedValue(target)
  const value =
    goal !== undefined && param.kind === 'number' ? (engine.picture(`=${target}`)?.last ?? goal) : goal
  if (value === mark.shown) return
  mark.shown = value
  element.style.visibility = value === undefined ? 'hidden' : 'visible'
  if (value === undefined) return
  if (param.kind === 'number')
    element.style.left = `${Math.min(1, Math.max(0, toScale(param, Number(value)))) * 100}%`
  else element.textContent = value === true ? 'on' : value === false ? 'off' : String(value)
}

const drawTick = ({ element, key, param }: Tick): void => {
  const picture = engine.picture(key)
  element.style.visibility = picture ? 'visible' : 'hidden'
  if (!picture) return
  const width = element.parentElement?.clientWidth ?? 0
  element.style.transform = `translateX(${Math.min(1, Math.max(0, toScale(param, picture.last))) * width}px)`
}

const drawTrace = (trace: Trace): void => {
  const picture = engine.picture(trace.key)
  const { canvas, kind } = trace
  const context = canvas.getContext('2d')!
  const ratio = canvas.width / 56
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  context.clearRect(0, 0, 56, 16)
  context.lineWidth = 1.25
  context.strokeStyle = colour(kind)
  context.beginPath()
  if (!picture) {
    context.moveTo(0, 8)
    context.lineTo(56, 8)
    context.globalAlpha = 0.35
  } else if (kind === 'audio') drawWave(context, picture)
  else drawStrip(context, trace, picture)
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

const drawStrip = (context: CanvasRenderingContext2D, trace: Trace, picture: Picture): void => {
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
    context.fillStyle = colour('ink2')
    context.fillText(noteName(Math.round(60 + 12 * picture.last)), 0, 8)
  }
}
