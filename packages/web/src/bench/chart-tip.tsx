/** What is under the pointer on the chart, in words: ports, tags and cables, with the value now. One for the whole chart. */
import {
  descriptionOf,
  endWords,
  labelOf,
  outputKind,
  patchIndex,
  printAmount,
  splitTarget,
} from '@ypsilon/core'
import { type RefObject, useEffect, useState } from 'react'
import { useApp } from '../app/context.ts'
import type { App } from '../app/app.ts'
import { cablesFrom, cablesTo } from './cable-index.ts'
import type { Scene } from './chart/scene.ts'
import { targetParam } from './fields/amount-field.tsx'
import { useScene } from './scene-context.ts'

const REST_MS = 450,
  SOON_MS = 60
const BESIDE = 14
/** Nothing of it stands outside the window. */
const WIDEST = 330

interface Shown {
  readonly words: string
  readonly x: number
  readonly y: number
}

/** An output: what it carries, how much of it now, and where it goes. */
const outputWords = ({ document, frames }: App, port: string): string => {
  const { patch } = document.getState()
  const [id = '', name = ''] = splitTarget(port) ?? []
  const kind = outputKind(patchIndex(patch).module.get(id), name),
    picture = frames.picture(port),
    count = cablesFrom(patch, port).length
  return [
    endWords(patch, port),
    kind,
    picture && `now ${picture.last.toFixed(3).replace('-', '−')}`,
    picture && kind === 'audio' && peakWords(Math.max(-picture.min, picture.max)),
    count === 0 ? 'drag it to an input' : `${count} ${count === 1 ? 'cable' : 'cables'}`,
  ]
    .filter(Boolean)
    .join(', ')
}

/** How high a sound goes; full scale is 0 dB. */
const peakWords = (peak: number): string =>
  peak < 1e-5
    ? 'silent'
    : `peak ${(20 * Math.log10(peak)).toFixed(1).replace('-', '−')} dB${peak > 1 ? ', beyond full scale' : ''}`

const inputWords = ({ document }: App, port: string): string => {
  const { patch } = document.getState()
  const sources = cablesTo(patch, port).map(({ from }) => endWords(patch, from))
  return `${endWords(patch, port)}, ${sources.length === 0 ? 'not connected' : `from ${sources.join(', ')}`}`
}

const cableWords = ({ document }: App, id: string): string | undefined => {
  const { patch } = document.getState(),
    cable = patchIndex(patch).cable.get(id)
  if (!cable) return undefined
  const amount = printAmount(targetParam(patch, cable.to), cable.amount ?? 1)
  return `${endWords(patch, cable.from)} → ${endWords(patch, cable.to)}, ${amount}${cable.muted ? ', muted' : ''}`
}

/** A card by its head: what it is, what it is for, and its keys. */
const cardWords = ({ document }: App, id: string): string | undefined => {
  const module = patchIndex(document.getState().patch).module.get(id)
  const description = module && descriptionOf(module)
  if (!description) return undefined
  const type = module.label === undefined ? '' : ` (${description.label.toLowerCase()})`
  return [
    `${module.label ?? description.label}${type}: ${description.help.does}`,
    'F2 renames',
    ...(description.bypass ? [module.bypass ? 'Ctrl+B ends its bypass' : 'Ctrl+B bypasses'] : []),
  ].join(' · ')
}

/** What is to be said of what the pointer is over; undefined for what says it itself. */
const wordsFor = (app: App, scene: Scene, element: Element): string | undefined => {
  const { pointed, distance } = scene.store.getState()
  if (pointed.port !== undefined)
    return pointed.side === 'out' ? outputWords(app, pointed.port) : inputWords(app, pointed.port)
  const { cable, tag } = {
    cable: element.closest<HTMLElement>('[data-cable]')?.dataset['cable'],
    tag: element.closest<HTMLElement>('[data-tag]')?.dataset['tag'],
  }
  const id = cable ?? tag
  if (id !== undefined) return cableWords(app, id)
  const card = element.closest<HTMLElement>('[data-module]')?.dataset['module']
  if (card === undefined) return undefined
  if (distance === 'far') return labelOf(app.document.getState().patch, card)
  return element.closest('.head') ? cardWords(app, card) : undefined
}

/** Comes when the pointer has rested, sooner where nothing else names a thing, and goes with its next move or press. */
export const ChartTip = ({ frame }: { readonly frame: RefObject<HTMLDivElement | null> }) => {
  const app = useApp(),
    scene = useScene()
  const [shown, setShown] = useState<Shown | undefined>(undefined)
  useEffect(() => {
    const chart = frame.current
    if (!chart) return undefined
    let timer: ReturnType<typeof setTimeout> | undefined
    const away = (): void => {
      clearTimeout(timer)
      setShown(undefined)
    }
    const move = ({ target, clientX: x, clientY: y, buttons }: PointerEvent): void => {
      const { pointed, distance } = scene.store.getState()
      const isNear = distance === 'near',
        isSoon = distance === 'far' || (!isNear && pointed.port !== undefined)
      away()
      // With a cable in hand the ports it may go to are named as well.
      if (buttons !== 0 && pointed.port === undefined) return
      timer = setTimeout(
        () => {
          const words = wordsFor(app, scene, target as Element)
          if (words !== undefined) setShown({ words, x, y })
        },
        isSoon || buttons !== 0 ? SOON_MS : REST_MS,
      )
    }
    chart.addEventListener('pointermove', move)
    chart.addEventListener('pointerleave', away)
    window.addEventListener('pointerdown', away, true)
    window.addEventListener('keydown', away, true)
    window.addEventListener('wheel', away, { capture: true, passive: true })
    // A loupe that opens says it all itself.
    const unfollow = scene.store.subscribe(({ loupes }, before) => {
      if (loupes.length > before.loupes.length) away()
    })
    return () => {
      away()
      unfollow()
      chart.removeEventListener('pointermove', move)
      chart.removeEventListener('pointerleave', away)
      window.removeEventListener('pointerdown', away, true)
      window.removeEventListener('keydown', away, true)
      window.removeEventListener('wheel', away, true)
    }
  }, [app, scene, frame])
  return (
    shown && (
      <div
        className="tip pointer-events-none fixed"
        role="tooltip"
        style={{ left: Math.min(shown.x + BESIDE, window.innerWidth - WIDEST), top: shown.y + BESIDE }}
      >
        {shown.words}
      </div>
    )
  )
}
