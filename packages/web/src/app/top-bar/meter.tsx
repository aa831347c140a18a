import { memo, useEffect, useRef, useState } from 'react'
import type { Report } from '../../audio/messages.ts'
import { fitted } from '../../bench/fitted.ts'
import type { Ink } from '../../bench/frames.ts'
import { Button } from '../../ui/button.tsx'
import { Window, WindowButtons } from '../../ui/dialog.tsx'
import { Tip } from '../../ui/tooltip.tsx'
import { useApp, useDevices, useTransport } from '../context.ts'

const WIDTH = 112,
  HEIGHT = 16
/** The scale begins this far below full. */
const RANGE_DB = 60
const HOLD_FRAMES = 60
const FALL = 0.9,
  HELD_FALL = 0.97
/** Frames between two times the numbers are written. */
const WORDS_FRAMES = 10
const LIT_MS = 400
const STOPPED = [
  'The sound was stopped: it was far too loud before the ear guard.',
  { description: 'Turn something down, then press Esc twice to start again.', duration: 12000 },
] as const

/** Levels of both sides with their held peaks; what the meter draws. */
class Levels {
  readonly now = [0, 0]
  readonly held = [0, 0]
  private holding = 0

  take(report: Report): void {
    this.now[0] = Math.max(this.now[0]!, report.peakLeft)
    this.now[1] = Math.max(this.now[1]!, report.peakRight)
  }

  /** One picture further. */
  step(): void {
    this.holding += 1
    for (const side of [0, 1]) {
      if (this.holding > HOLD_FRAMES) this.held[side]! *= HELD_FALL
      if (this.now[side]! > this.held[side]!) {
        this.held[side] = this.now[side]!
        this.holding = 0
      }
    }
  }
  fall(): void {
    for (const side of [0, 1]) this.now[side]! *= FALL
  }
  get most(): number {
    return Math.max(...this.held)
  }
}

const xOf = (peak: number): number =>
  WIDTH * Math.min(1, Math.max(0, 1 + (20 * Math.log10(Math.max(1e-6, peak))) / RANGE_DB))

/** Where the bars end and their held peaks stand, in half pixels: what is drawn is the same as long as these are. */
const placesOf = ({ now, held }: Levels): readonly number[] =>
  [...now, ...held].map((peak) => Math.round(2 * xOf(peak)) / 2)

const draw = (canvas: HTMLCanvasElement, places: readonly number[], ink: Ink): void => {
  fitted(canvas, { width: WIDTH, height: HEIGHT }, Math.min(2, window.devicePixelRatio || 1))
  const context = canvas.getContext('2d')!
  context.clearRect(0, 0, WIDTH, HEIGHT)
  for (const side of [0, 1]) {
    const y = 2 + 7 * side
    context.fillStyle = ink.colour('rule')
    context.fillRect(0, y, WIDTH, 5)
    context.fillStyle = ink.colour('audio')
    context.fillRect(0, y, places[side]!, 5)
    context.fillStyle = ink.colour('ink')
    context.fillRect(places[2 + side]!, y - 1, 1.5, 7)
  }
}

/** Draws the meter where it is another than before. */
const painterOf = (canvas: HTMLCanvasElement): ((levels: Levels, ink: Ink) => void) => {
  let drawn: readonly unknown[] = []
  return (levels, ink) => {
    const places = placesOf(levels),
      wanted = [...places, ink.colour('rule'), window.devicePixelRatio]
    if (!wanted.every((each, n) => each === drawn[n])) draw(canvas, places, ink)
    drawn = wanted
  }
}

/** Written anew only where the words are others: whatever is set is laid out again. */
const write = (element: HTMLElement, words: string): void => {
  if (element.textContent !== words) element.textContent = words
}

const dbWords = (peak: number): string =>
  peak < 1e-4 ? '−∞' : (20 * Math.log10(peak)).toFixed(1).replace('-', '−')

/** Output level with peak hold; drawn on the frame loop. */
export const Meter = memo(() => {
  const app = useApp(),
    { engine, frames, notifier, commands } = app
  const canvas = useRef<HTMLCanvasElement>(null),
    number = useRef<HTMLSpanElement>(null),
    load = useRef<HTMLSpanElement>(null)
  useEffect(() => {
    const levels = new Levels(),
      paint = painterOf(canvas.current!)
    let count = 0,
      loadNow = -1,
      isStopped = false
    const stop = engine.subscribe((report) => {
      levels.take(report)
      loadNow = report.load
      if (report.stopped && !isStopped) notifier.error(...STOPPED)
      isStopped = report.stopped
    })
    const stopPainting = frames.paint((ink) => {
      levels.step()
      paint(levels, ink)
      levels.fall()
      count += 1
      if (count % WORDS_FRAMES !== 0) return
      write(number.current!, dbWords(levels.most))
      write(load.current!, loadNow < 0 ? '–' : `${Math.round(loadNow * 100)} %`)
    })
    return () => {
      stop()
      stopPainting()
    }
  }, [engine, frames, notifier])
  return (
    <>
      <Tip words="Share of one core the sound takes. Press to measure every module.">
        <button
          type="button"
          className="load"
          onClick={() => {
            commands.get('loads').run(app)
          }}
        >
          <span ref={load} className="mono block">
            –
          </span>
          <span className="block text-11 text-ink2">load</span>
        </button>
      </Tip>
      <canvas ref={canvas} style={{ width: WIDTH, height: HEIGHT }} role="img" aria-label="Output level" />
      <Tip words="Highest peak in dBFS">
        <span ref={number} className="mono w-10 text-right text-13" data-peak="">
          −∞
        </span>
      </Tip>
    </>
  )
})

/** Why nothing sounds, where it is the browser that holds it back. */
export const SoundHeld = memo(() => {
  const sound = useDevices((state) => state.sound)
  return sound === 'running' ? null : (
    <span role="status" className="whitespace-nowrap text-12 text-warn" data-held="">
      Any key or click starts the sound
    </span>
  )
})

interface QuestionProps {
  readonly isAsking: boolean
  readonly onAnswer: (isOff: boolean) => void
}

const GuardQuestion = ({ isAsking, onAnswer }: QuestionProps) => {
  const keep = (): void => {
    onAnswer(false)
  }
  return (
    <Window title="Switch the ear guard off?" isOpen={isAsking} onClose={keep}>
      <p>Loud sounds will not be held back until the page is loaded again or you switch it on.</p>
      <WindowButtons>
        <Button onClick={keep}>Keep it on</Button>
        <Button
          look="main"
          onClick={() => {
            onAnswer(true)
          }}
        >
          Switch it off
        </Button>
      </WindowButtons>
    </Window>
  )
}

/** The ear guard: lit while it works; it is not switched off by accident. */
export const Guard = memo(() => {
  const { engine, frames } = useApp()
  const hasGuard = useTransport((state) => state.hasGuard),
    setGuard = useTransport((state) => state.setGuard)
  const [isAsking, setAsking] = useState(false)
  const lamp = useRef<HTMLButtonElement>(null)
  useEffect(() => {
    let limitedAt = -Infinity
    const stop = engine.subscribe((report) => {
      if (report.limited) limitedAt = performance.now()
    })
    const stopPainting = frames.paint(() => {
      const lit = String(performance.now() - limitedAt < LIT_MS)
      if (lamp.current && lamp.current.dataset['lit'] !== lit) lamp.current.dataset['lit'] = lit
    })
    return () => {
      stop()
      stopPainting()
    }
  }, [engine, frames])
  return (
    <>
      <Tip
        words={
          hasGuard
            ? 'Ear guard: limits the output to −1 dBFS. Lit while it works.'
            : 'The ear guard is off for this session.'
        }
      >
        <button
          ref={lamp}
          type="button"
          className="guard"
          data-off={!hasGuard}
          aria-pressed={hasGuard}
          onClick={() => {
            if (hasGuard) setAsking(true)
            else setGuard(true)
          }}
        >
          {hasGuard ? 'guard' : 'guard off'}
        </button>
      </Tip>
      <GuardQuestion
        isAsking={isAsking}
        onAnswer={(isOff) => {
          if (isOff) setGuard(false)
          setAsking(false)
        }}
      />
    </>
  )
})
