/** What the cable that is pointed at, or selected, carries and where it goes: in the chart's margin. */
import { endWords, patchIndex, printAmount } from '@ypsilon/core'
import { useEffect, useRef } from 'react'
import { useApp, useDocument, useWorkspace } from '../app/context.ts'
import { PortMark } from '../ui/icons.tsx'
import { targetParam } from './fields/amount-field.tsx'
import { useSceneState } from './scene-context.ts'

/** So often a second what flows is written anew. */
const HZ = 8
const QUIET = 1e-4

/** What flows now: a level of sound, the value of all else. */
const flowWords = (kind: string, low: number, high: number, last: number): string => {
  if (kind !== 'audio') return last.toFixed(3).replace('-', '−')
  const peak = Math.max(Math.abs(low), Math.abs(high))
  return peak < QUIET ? 'silent' : `${(20 * Math.log10(peak)).toFixed(1).replace('-', '−')} dB`
}

/** Written beside React, as the signal goes on. */
const Flow = ({ source, kind }: { readonly source: string; readonly kind: string }) => {
  const { frames, engine } = useApp()
  const text = useRef<HTMLSpanElement>(null)
  useEffect(() => {
    let written = 0
    return frames.paint((ink) => {
      const now = performance.now()
      if (!text.current || now - written < 1000 / HZ) return
      written = now
      const picture = engine.isRunning ? ink.picture(source) : undefined
      text.current.textContent = picture ? flowWords(kind, picture.min, picture.max, picture.last) : '–'
    })
  }, [frames, engine, source, kind])
  return <span ref={text} className="mono inline-block min-w-[64px] text-right" />
}

export const CableMargin = () => {
  const pointed = useSceneState((state) => state.pointed.cable),
    chosen = useWorkspace((state) => state.cable),
    patch = useDocument((state) => state.patch)
  const id = pointed ?? chosen
  const kind = useSceneState((state) => state.cables.find((drawn) => drawn.id === id)?.kind)
  const cable = id === undefined ? undefined : patchIndex(patch).cable.get(id)
  if (!cable || kind === undefined) return null
  const { amount = 1, muted } = cable
  return (
    <div className="cable-margin" data-margin="" aria-live="off">
      <PortMark kind={kind} filled />
      <span>
        {endWords(patch, cable.from)} → {endWords(patch, cable.to)}
      </span>
      {amount !== 1 && <span className="mono">{printAmount(targetParam(patch, cable.to), amount)}</span>}
      {muted === true ? <span>muted</span> : <Flow source={cable.from} kind={kind} />}
    </div>
  )
}
