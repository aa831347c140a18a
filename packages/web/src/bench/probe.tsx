import { descriptionOf, labelOf, patchIndex, splitTarget } from '@ypsilon/core'
import { memo, type RefObject, useEffect, useRef, useState } from 'react'
import { useApp, useDocument, useWorkspace } from '../app/context.ts'
import { Button } from '../ui/button.tsx'
import { Choice } from '../ui/select.tsx'
import { analyse, drawScope, drawSpectrum, levelText, ProbeTape, scopeFrames } from './probe-draw.ts'
import { outputSource } from './probe-source.ts'

const WINDOWS = [2, 5, 10, 20, 50, 80]
/** Pictures between two times that spectrum and words are made. */
const SPECTRUM_FRAMES = 2,
  WORDS_FRAMES = 8

interface Pictures {
  readonly scope: RefObject<HTMLCanvasElement | null>
  readonly lines: RefObject<HTMLCanvasElement | null>
  readonly words: RefObject<HTMLPreElement | null>
}

interface Looking {
  readonly probe: string
  readonly windowMs: number
  readonly isFrozen: boolean
}

/** Draws one signal for as long as it is looked at. */
const useLooking = ({ scope, lines, words }: Pictures, { probe, windowMs, isFrozen }: Looking): void => {
  const { engine, frames } = useApp()
  useEffect(() => {
    const tape = new ProbeTape()
    const stop = engine.subscribe((report) => {
      if (!isFrozen) tape.take(engine.picture(probe), report.time)
    })
    let count = 0
    const stopPainting = frames.paint((ink) => {
      count += 1
      if (isFrozen || !scope.current || !lines.current) return
      const { sampleRate } = engine
      drawScope(scope.current, ink, tape.samples, scopeFrames(windowMs, sampleRate))
      if (count % SPECTRUM_FRAMES === 0) {
        analyse(tape.samples)
        drawSpectrum(lines.current, ink, sampleRate)
      }
      if (count % WORDS_FRAMES === 0 && words.current)
        words.current.textContent = levelText(tape.samples, sampleRate)
    })
    return () => {
      stop()
      stopPainting()
    }
  }, [engine, frames, probe, windowMs, isFrozen, scope, lines, words])
}

const OpenProbe = ({ probe, name }: { readonly probe: string; readonly name: string }) => {
  const scope = useRef<HTMLCanvasElement>(null),
    lines = useRef<HTMLCanvasElement>(null),
    words = useRef<HTMLPreElement>(null)
  const [windowMs, setWindow] = useState(20),
    [isFrozen, setFrozen] = useState(false)
  useLooking({ scope, lines, words }, { probe, windowMs, isFrozen })
  return (
    <div className="flex h-full gap-4 px-3 py-2">
      <section className="flex min-w-0 flex-1 flex-col gap-1">
        <header className="flex items-baseline gap-3">
          <b className="truncate">{name}</b>
          <span className="text-ink2">scope</span>
          <span className="ml-auto flex items-center gap-1.5 text-ink2">
            window
            <Choice
              label="Window of the scope"
              value={String(windowMs)}
              options={WINDOWS.map((ms) => ({ value: String(ms), label: `${ms} ms` }))}
              onChange={(ms) => {
                setWindow(Number(ms))
              }}
            />
          </span>
        </header>
        <canvas ref={scope} className="min-h-0 w-full flex-1" role="img" aria-label="Scope" />
      </section>
      <section className="flex min-w-0 flex-1 flex-col gap-1">
        <header className="flex items-baseline gap-3">
          <b className="truncate">{name}</b>
          <span className="text-ink2">spectrum</span>
          <span className="mono ml-auto whitespace-nowrap text-ink2">20 Hz – 20 kHz</span>
        </header>
        <canvas ref={lines} className="min-h-0 w-full flex-1" role="img" aria-label="Spectrum" />
      </section>
      <section className="w-[136px] shrink-0">
        <header className="mb-1 flex items-baseline justify-between">
          <b>Level</b>
          <Button
            look="small"
            aria-pressed={isFrozen}
            onClick={() => {
              setFrozen(!isFrozen)
            }}
          >
            {isFrozen ? 'Go on' : 'Freeze'}
          </Button>
        </header>
        <pre ref={words} className="mono m-0 leading-[19px]" />
      </section>
    </div>
  )
}

/** One probe: scope and spectrum of a signal, with its level. */
export const Probe = memo(() => {
  const pinned = useWorkspace((state) => state.probe)
  const patch = useDocument((state) => state.patch)
  const probe = pinned ?? outputSource(patch)
  const [id = '', port = ''] = splitTarget(probe ?? '') ?? []
  const module = patchIndex(patch).module.get(id)
  const exists =
    module !== undefined && (descriptionOf(module)?.outputs.some(({ name }) => name === port) ?? false)
  return probe !== undefined && exists ? (
    <OpenProbe probe={probe} name={`${labelOf(patch, id)} ${port}`} />
  ) : (
    <div className="flex h-full items-center justify-center text-ink2">
      Shift-click an output to look at it.
    </div>
  )
})
