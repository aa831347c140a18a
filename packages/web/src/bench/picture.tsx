import { own, CATALOGUE, type PatchModule } from '@ypsilon/core'
import { memo, useEffect, useRef } from 'react'
import { useApp } from '../app/context.ts'
import type { Ink } from './frames.ts'

const WIDTH = 264,
  HEIGHT = 104

const value = (module: PatchModule, name: string): number =>
  Number(own(module.params, name) ?? CATALOGUE.get(module.type)?.params.get(name)?.default ?? 0)

/** Shapes of the contract's closed forms, for the eye only. */
const curve = (x: number, c: number): number =>
  Math.abs(c) < 1e-3 ? x : (1 - Math.exp(-6 * c * x)) / (1 - Math.exp(-6 * c))

const grid = (context: CanvasRenderingContext2D, ink: Ink): void => {
  context.strokeStyle = ink.colour('rule')
  context.lineWidth = 1
  context.strokeRect(0.5, 0.5, WIDTH - 1, HEIGHT - 1)
  context.beginPath()
  for (let y = HEIGHT / 4; y < HEIGHT; y += HEIGHT / 4) {
    context.moveTo(0, Math.round(y) + 0.5)
    context.lineTo(WIDTH, Math.round(y) + 0.5)
  }
  context.globalAlpha = 0.5
  context.stroke()
  context.globalAlpha = 1
}

const xOfHz = (hz: number): number => (WIDTH * Math.log(hz / 20)) / Math.log(1000)

/** Response of the filter now: the analogue prototype the kernel follows. */
const drawFilter = (context: CanvasRenderingContext2D, module: PatchModule, ink: Ink): void => {
  const set = value(module, 'cutoff')
  const now = ink.picture(`>${module.id}.cutoff`)?.last ?? set
  const resonance = value(module, 'resonance'),
    steep = module.params?.['slope'] === '24'
  const line = (cutoff: number, dashed: boolean): void => {
    context.beginPath()
    context.setLineDash(dashed ? [3, 3] : [])
    for (let x = 0; x <= WIDTH; x += 2) {
      const ratio = (20 * 1000 ** (x / WIDTH)) / cutoff
      const size = 1 / Math.hypot(1 - ratio ** 2, 2 * (1 - resonance) * ratio)
      const db = 20 * Math.log10(steep ? size ** 2 : size)
      const y = 30 - (db / 48) * (HEIGHT - 30)
      if (x === 0) context.moveTo(x, y)
      else context.lineTo(x, y)
    }
    context.stroke()
    context.setLineDash([])
  }
  context.lineWidth = 1
  context.strokeStyle = ink.colour('ink2')
  if (Math.abs(now - set) > 1) line(set, true)
  context.lineWidth = 1.75
  context.strokeStyle = ink.colour('audio')
  line(now, false)
  context.fillStyle = ink.colour('ink2')
  context.font = '11px "Atkinson Hyperlegible Mono Variable", monospace'
  for (const [hz, word] of [
    [100, '100'],
    [1000, '1 k'],
    [10000, '10 k'],
  ] as const)
    context.fillText(word, xOfHz(hz) + 2, HEIGHT - 4)
  context.fillStyle = ink.colour('control')
  context.beginPath()
  const x = xOfHz(Math.min(20000, Math.max(20, now)))
  context.moveTo(x - 4, 0)
  context.lineTo(x + 4, 0)
  context.lineTo(x, 6)
  context.fill()
}

const drawEnvelope = (context: CanvasRenderingContext2D, module: PatchModule, ink: Ink): void => {
  const [delay, attack, hold, decay, sustain, release] = [
    'delay',
    'attack',
    'hold',
    'decay',
    'sustain',
    'release',
  ].map((name) => value(module, name)) as [number, number, number, number, number, number]
  const held = Math.max(0.1, (delay + attack + hold + decay + release) * 0.2)
  const total = delay + attack + hold + decay + held + release
  const x = (t: number): number => 4 + ((WIDTH - 8) * t) / total,
    y = (level: number): number => HEIGHT - 6 - (HEIGHT - 14) * level
  context.strokeStyle = ink.colour('control')
  context.lineWidth = 1.75
  context.beginPath()
  context.moveTo(x(0), y(0))
  context.lineTo(x(delay), y(0))
  const segment = (start: number, length: number, a: number, b: number, c: number): void => {
    for (let i = 1; i <= 24; i += 1)
      context.lineTo(x(start + (length * i) / 24), y(a + (b - a) * curve(i / 24, c)))
  }
  segment(delay, attack, 0, 1, value(module, 'attackCurve'))
  context.lineTo(x(delay + attack + hold), y(1))
  segment(delay + attack + hold, decay, 1, sustain, value(module, 'decayCurve'))
  context.lineTo(x(total - release), y(sustain))
  segment(total - release, release, sustain, 0, value(module, 'releaseCurve'))
  context.stroke()
  const now = ink.picture(`${module.id}.env`)
  if (now) {
    context.fillStyle = ink.colour('control')
    context.globalAlpha = 0.25
    context.fillRect(0, y(now.last), WIDTH, 1.5)
    context.globalAlpha = 1
  }
}

/** The signal of the module's first watched output. */
const drawSignal = (context: CanvasRenderingContext2D, module: PatchModule, ink: Ink): void => {
  const description = CATALOGUE.get(module.type)?.description
  const port = description?.outputs.find((item) => ink.picture(`${module.id}.${item.name}`))
  const picture = port && ink.picture(`${module.id}.${port.name}`)
  context.fillStyle = ink.colour('ink2')
  context.font = '11px "Atkinson Hyperlegible Mono Variable", monospace'
  if (!port || !picture) {
    context.fillText('no signal yet', 8, 18)
    return
  }
  context.fillText(port.name, 8, 16)
  const size = Math.max(0.05, Math.abs(picture.min), Math.abs(picture.max))
  context.strokeStyle = ink.colour(port.kind)
  context.lineWidth = 1.5
  context.beginPath()
  for (let i = 0; i < 511; i += 1) {
    const x = (WIDTH * i) / 510,
      y = HEIGHT / 2 - ((HEIGHT / 2 - 8) * picture.ring[(picture.position + i) % 512]!) / size
    if (i === 0) context.moveTo(x, y)
    else context.lineTo(x, y)
  }
  context.stroke()
}

/** What the selected module does, drawn. */
export const Picture = memo(({ module }: { module: PatchModule }) => {
  const { frames } = useApp()
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    const element = canvas.current!
    const ratio = Math.min(2, window.devicePixelRatio || 1)
    element.width = WIDTH * ratio
    element.height = HEIGHT * ratio
    const context = element.getContext('2d')!
    return frames.paint((ink) => {
      context.setTransform(ratio, 0, 0, ratio, 0, 0)
      context.clearRect(0, 0, WIDTH, HEIGHT)
      grid(context, ink)
      if (module.type === 'filter') drawFilter(context, module, ink)
      else if (module.type === 'envelope') drawEnvelope(context, module, ink)
      else drawSignal(context, module, ink)
    })
  }, [frames, module])
  const now = module.type === 'filter' ? 'Response' : module.type === 'envelope' ? 'Shape' : 'Signal'
  return (
    <section className="border-b border-rule px-3 py-2.5">
      <h3 className="panel-title mb-1.5">{now}</h3>
      <canvas
        ref={canvas}
        className="block w-full"
        style={{ aspectRatio: `${WIDTH} / ${HEIGHT}` }}
        role="img"
        aria-label={`${now} of the selected module`}
      />
    </section>
  )
})
