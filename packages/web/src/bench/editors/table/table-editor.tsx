/** A wavetable in the dock: its frames in depth, one of them as a wave and as partials, both drawn. */
import { labelOf, type Patch } from '@ypsilon/core'
import { drawnOver, type Frame, type Frames, partialsOf, withPartial } from '@ypsilon/core/describe/waves.ts'
import { type KeyboardEvent, type PointerEvent, useCallback, useEffect, useMemo, useState } from 'react'
import { useApp, useDocument } from '../../../app/context.ts'
import { followPointer } from '../../follow-pointer.ts'
import type { EditorProps } from '../types.ts'
import { TableCanvas } from './table-canvas.tsx'
import { framesNamed, keepFrames, tableName } from './table-frames.ts'
import { TableHead } from './table-head.tsx'
import { drawBars, drawStack, drawWave, frameAt, levelAtHeight } from './table-painter.ts'

interface FramePartProps {
  readonly frame: Frame
  /** What is shown while a hand draws; undefined: what stands. */
  readonly onDraft: (frame: Frame | undefined) => void
  readonly onFrame: (frame: Frame, words: string) => void
}

/** Follows a hand that draws a frame: shown at once, kept when it is let go. */
const drawing = (
  event: PointerEvent<HTMLElement>,
  { frame, onDraft, onFrame }: FramePartProps,
  words: string,
  step: (frame: Frame, from: readonly [number, number], to: readonly [number, number]) => Frame,
): void => {
  if (event.button !== 0) return
  const { left, top, width, height } = event.currentTarget.getBoundingClientRect()
  const spot = ({ clientX, clientY }: { readonly clientX: number; readonly clientY: number }) =>
    [(clientX - left) / width, (clientY - top) / height] as const
  let last = spot(event),
    drawn = step(frame, last, last)
  onDraft(drawn)
  followPointer(event, {
    move: (moved) => {
      const now = spot(moved)
      drawn = step(drawn, last, now)
      last = now
      onDraft(drawn)
    },
    drop: () => {
      onFrame(drawn, words)
    },
    giveUp: () => {
      onDraft(undefined)
    },
  })
}

const Wave = (props: FramePartProps) => {
  const { frame } = props
  const paint = useCallback<Parameters<typeof TableCanvas>[0]['paint']>(
    (context, ink, size) => {
      drawWave(context, ink, frame, size)
    },
    [frame],
  )
  return (
    <TableCanvas
      paint={paint}
      className="table-wave"
      role="img"
      aria-label="The wave of this frame"
      data-table-wave
      onPointerDown={(event) => {
        const height = (y: number): number => (0.5 - y) / 0.48
        drawing(event, props, 'Draw a wave', (wave, from, to) =>
          drawnOver(wave, [from[0], height(from[1])], [to[0], height(to[1])]),
        )
      }}
    />
  )
}

const Partials = (props: FramePartProps) => {
  const { frame } = props
  const partials = useMemo(() => partialsOf(frame), [frame])
  const paint = useCallback<Parameters<typeof TableCanvas>[0]['paint']>(
    (context, ink, size) => {
      drawBars(context, ink, partials, size)
    },
    [partials],
  )
  return (
    <TableCanvas
      paint={paint}
      className="table-partials"
      role="img"
      aria-label="Levels of its partials, 1 to 64"
      data-table-partials
      onPointerDown={(event) => {
        const at = (x: number): number =>
          Math.min(partials.length, Math.max(1, Math.floor(x * partials.length) + 1))
        drawing(event, props, 'Draw partials', (wave, from, to) => {
          const [first, last] = [at(from[0]), at(to[0])]
          let next = wave
          for (let n = Math.min(first, last); n <= Math.max(first, last); n += 1) {
            const share = last === first ? 1 : (n - first) / (last - first)
            next = withPartial(next, n, levelAtHeight(1 - (from[1] + share * (to[1] - from[1]))))
          }
          return next
        })
      }}
    />
  )
}

interface StackProps {
  readonly frames: Frames
  readonly selected: number
  readonly select: (index: number) => void
}

const STEPS: ReadonlyMap<string, number> = new Map([
  ['ArrowUp', 1],
  ['ArrowRight', 1],
  ['ArrowDown', -1],
  ['ArrowLeft', -1],
  ['PageUp', 8],
  ['PageDown', -8],
])

const Stack = ({ frames, selected, select }: StackProps) => {
  const paint = useCallback<Parameters<typeof TableCanvas>[0]['paint']>(
    (context, ink, size) => {
      drawStack(context, ink, frames, selected, size)
    },
    [frames, selected],
  )
  const onKeyDown = (event: KeyboardEvent): void => {
    const by = STEPS.get(event.key)
    if (by === undefined) return
    event.preventDefault()
    event.stopPropagation()
    select(Math.min(frames.length - 1, Math.max(0, selected + by)))
  }
  return (
    <TableCanvas
      paint={paint}
      className="table-stack nokey"
      role="slider"
      tabIndex={0}
      aria-label="Frames in depth"
      aria-valuemin={1}
      aria-valuemax={frames.length}
      aria-valuenow={selected + 1}
      data-table-stack
      onKeyDown={onKeyDown}
      onPointerDown={(event) => {
        const { top, height, width } = event.currentTarget.getBoundingClientRect()
        const choose = ({ clientY }: { readonly clientY: number }): void => {
          select(frameAt(clientY - top, frames.length, { width, height }))
        }
        choose(event)
        followPointer(event, { move: choose, drop: () => undefined, giveUp: () => undefined })
      }}
    />
  )
}

/** The table of a module: its frames as they stand or are drawn, the chosen one, and how frames are kept. */
const useTable = ({ module, description }: EditorProps, name: string) => {
  const app = useApp()
  const data = description.data!.find(({ kind }) => kind === 'table')!,
    table = tableName(module, data.name, data.default)
  // Other edits of the patch leave the frames as they are.
  const assets = useDocument(({ patch }) => (patch as { readonly assets?: unknown }).assets)
  const frames = useMemo(() => framesNamed(app, { assets } as unknown as Patch, table), [app, assets, table])
  const [chosen, setChosen] = useState({ selected: 0, anchor: 0 }),
    [draft, setDraft] = useState<Frame | undefined>(undefined)
  const last = (frames?.length ?? 1) - 1,
    selected = Math.min(chosen.selected, last)
  useEffect(() => {
    setDraft(undefined)
  }, [frames, selected])
  const shown = useMemo(
    () => (frames && draft ? frames.map((frame, n) => (n === selected ? draft : frame)) : frames),
    [frames, draft, selected],
  )
  const onFrames = async (next: Frames, words: string): Promise<void> => {
    try {
      await keepFrames(app, module.id, data.name, next, `${words} of ${name}`)
    } catch (error) {
      setDraft(undefined)
      app.notifier.error(
        `The table could not be kept: ${error instanceof Error ? error.message : String(error)}`,
      )
    }
  }
  const select = (index: number): void => {
    setChosen({ selected: index, anchor: selected })
  }
  return { table, shown, selected, anchor: Math.min(chosen.anchor, last), select, setDraft, onFrames }
}

export const TableEditor = (props: EditorProps) => {
  const { module, description } = props
  const name = useDocument(({ patch }) => labelOf(patch, module.id))
  const { table, shown, selected, anchor, select, setDraft, onFrames } = useTable(props, name)
  const part: FramePartProps | undefined = shown && {
    frame: shown[selected]!,
    onDraft: setDraft,
    onFrame: (frame, words) => {
      void onFrames(
        shown.map((each, n) => (n === selected ? frame : each)),
        words,
      )
    },
  }
  return (
    <section className="editor" aria-label={`${description.label} of ${name}`} data-editor="table">
      {shown && part ? (
        <>
          <TableHead frames={shown} selected={selected} anchor={anchor} select={select} onFrames={onFrames} />
          <div className="table-parts">
            <Stack frames={shown} selected={selected} select={select} />
            <Wave {...part} />
            <Partials {...part} />
          </div>
        </>
      ) : (
        <p className="m-auto text-ink2">
          The recording “{table}” is not in this browser. Choose a built-in table, or open the archive it came
          with.
        </p>
      )}
    </section>
  )
}
