/** Why nothing is heard, said at the first dead place of the way back from the output. */
import { labelOf, type Silence } from '@ypsilon/core'
import { X } from 'lucide-react'
import { useEffect, useRef } from 'react'
import { useApp, useDocument, useTransport, useWorkspace } from '../app/context.ts'
import { showModule } from '../app/level.ts'
import { askWhySilent } from '../app/silence.ts'
import { Button, IconButton } from '../ui/button.tsx'
import type { Box } from './chart/routing.ts'
import { Remedies } from './remedies.tsx'
import { useScene, useSceneState } from './scene-context.ts'

const WIDTH = 320,
  HEIGHT = 132,
  BESIDE = 8

interface Corner {
  readonly left: number
  readonly top: number
}

/** Where it stands in the chart: beside the card it is about, where it covers least of the way to it. */
const usePlace = (path: readonly string[]): Corner => {
  const scene = useScene()
  useSceneState((state) => state.rests)
  useSceneState((state) => state.seen)
  const { view } = scene,
    [box] = scene.boxes(path.slice(-1))
  if (!box) return { left: 2 * BESIDE, top: 2 * BESIDE }
  const onFrame = (one: Box): Box => {
    const from = view.toFrame({ x: one.left, y: one.top }),
      to = view.toFrame({ x: one.right, y: one.bottom })
    return { left: from.x, top: from.y, right: to.x, bottom: to.y }
  }
  const { left, top, right, bottom } = onFrame(box),
    way = scene.boxes(path).map(onFrame)
  const within = (corner: Corner): Corner => ({
    left: Math.max(BESIDE, Math.min(corner.left, view.width - WIDTH - BESIDE)),
    top: Math.max(BESIDE, Math.min(corner.top, view.height - HEIGHT - BESIDE)),
  })
  const covered = (corner: Corner): number =>
    way.reduce((sum, card) => {
      const across = Math.min(card.right, corner.left + WIDTH) - Math.max(card.left, corner.left),
        down = Math.min(card.bottom, corner.top + HEIGHT) - Math.max(card.top, corner.top)
      return sum + Math.max(0, across) * Math.max(0, down)
    }, 0)
  const corners = [
    { left, top: bottom + BESIDE },
    { left: right + BESIDE, top },
    { left: left - WIDTH - BESIDE, top },
    { left, top: top - HEIGHT - BESIDE },
  ].map(within)
  return corners.reduce((best, corner) => (covered(corner) < covered(best) ? corner : best))
}

/** It sounds: what else may be in the way of hearing it. */
const Sounding = ({ levelDb }: { readonly levelDb: number }) => {
  const { transport, engine } = useApp()
  const isSilenced = useTransport((state) => state.isSilenced)
  return (
    <>
      <p>
        It sounds: with a test note the output reaches{' '}
        <span className="mono">{levelDb.toFixed(1).replace('-', '−')} dB</span>.
      </p>
      {isSilenced ? (
        <p className="mt-1 flex items-center gap-2">
          It was silenced.
          <Button
            look="small"
            onClick={() => {
              transport.getState().playOn()
            }}
          >
            Play on
          </Button>
        </p>
      ) : (
        <p className="mt-1 text-ink2">
          {engine.isRunning
            ? 'Play a note: keys from A, or Shift+Space. If the meter moves, look at the sound device in Devices.'
            : 'The sound has not begun: press any key.'}
        </p>
      )}
    </>
  )
}

const Found = ({ silence }: { readonly silence: Silence }) => {
  const patch = useDocument((state) => state.patch)
  const { finding } = silence
  if (!finding) return <Sounding levelDb={silence.levelDb} />
  const module = finding.place.split('.')[0]!
  return (
    <>
      <p className="mb-2">
        <span className="font-semibold">{labelOf(patch, module)}</span>: {finding.message}.
      </p>
      <Remedies finding={finding} />
    </>
  )
}

const NO_PATH: readonly string[] = []

/** Escape closes it, wherever the focus is but in what has the key itself. */
const useEscape = (close: () => void): void => {
  useEffect(() => {
    const pressed = (event: KeyboardEvent): void => {
      const target = event.target as Element | null
      const isElsewhere =
        (target?.closest('input, textarea, .menu, [role="dialog"]:not([data-silence])') ?? null) !== null
      if (event.key !== 'Escape' || event.defaultPrevented || isElsewhere) return
      event.preventDefault()
      event.stopPropagation()
      close()
    }
    window.addEventListener('keydown', pressed, true)
    return () => {
      window.removeEventListener('keydown', pressed, true)
    }
  })
}

const Panel = ({ silence }: { readonly silence: Silence | 'listening' }) => {
  const app = useApp(),
    { workspace, document, chart } = app
  const box = useRef<HTMLDivElement>(null)
  const path = typeof silence === 'string' ? NO_PATH : silence.path,
    last = path.at(-1)
  const place = usePlace(path)
  const close = (): void => {
    workspace.getState().showSilence(undefined)
    chart.focus()
  }
  useEscape(close)
  useEffect(() => {
    box.current?.focus({ preventScroll: true })
    if (last !== undefined) showModule(app, last)
  }, [app, last])
  // What was found holds for the patch as it was: after an edit it is asked anew.
  useEffect(
    () =>
      document.subscribe(({ patch }, before) => {
        if (patch !== before.patch) void askWhySilent(app)
      }),
    [app, document],
  )
  return (
    <div
      ref={box}
      className="silence"
      role="dialog"
      aria-label="Why silent?"
      tabIndex={-1}
      data-silence=""
      style={{ ...place, width: WIDTH }}
    >
      <div className="mb-1.5 flex items-center">
        <h2 className="panel-title">Why silent?</h2>
        <span className="ml-auto">
          <IconButton isSmall label="Close" keys="Esc" onClick={close}>
            <X size={14} />
          </IconButton>
        </span>
      </div>
      <div aria-live="polite">
        {silence === 'listening' ? (
          <p className="text-ink2">Playing a test note and listening at every port …</p>
        ) : (
          <Found silence={silence} />
        )}
      </div>
    </div>
  )
}

export const SilencePanel = () => {
  const silence = useWorkspace((state) => state.silence)
  return silence ? <Panel silence={silence} /> : null
}
