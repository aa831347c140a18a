/** Frames and notes on the chart: a frame moves what is in it, a note says what cards do not. */
import {
  carriedBy,
  type CanvasNote,
  type Frame,
  marksOf,
  moveMark,
  patchIndex,
  type Rect,
  sizeMark,
  snap,
  writeMark,
} from '@ypsilon/core'
import { memo, type PointerEvent, type ReactNode, useRef } from 'react'
import type { App } from '../app/app.ts'
import { useApp, useDocument, useWorkspace } from '../app/context.ts'
import { TextField } from '../ui/text-field.tsx'
import { apart } from './chart/port-finder.ts'
import type { Point } from './chart/routing.ts'
import type { Scene } from './chart/scene.ts'
import { usePointing, useScene } from './scene-context.ts'

const CLICK_PX = 4

interface Dragging {
  readonly move: (by: Point) => void
  readonly drop: (by: Point) => void
  readonly giveUp: () => void
}

/** Follows the pointer from a press on; distances on the chart, on its grid. Escape gives it up. */
const useDrag = (): ((event: PointerEvent<HTMLElement>, dragging: Dragging) => void) => {
  const scene = useScene(),
    pointing = usePointing()
  return (event, dragging) => {
    event.stopPropagation()
    const element = event.currentTarget,
      start = pointing.toFrame(event)
    element.setPointerCapture(event.pointerId)
    let isMoved = false
    const by = (moved: globalThis.PointerEvent): Point => {
      const at = pointing.toFrame(moved),
        { zoom } = scene.view
      return { x: snap((at.x - start.x) / zoom), y: snap((at.y - start.y) / zoom) }
    }
    const move = (moved: globalThis.PointerEvent): void => {
      isMoved ||= apart(pointing.toFrame(moved), start) >= CLICK_PX
      if (isMoved) dragging.move(by(moved))
    }
    const stop = (): void => {
      element.removeEventListener('pointermove', move)
      element.removeEventListener('pointerup', up)
      element.removeEventListener('pointercancel', cancel)
      window.removeEventListener('keydown', pressed, true)
    }
    const up = (dropped: globalThis.PointerEvent): void => {
      stop()
      if (isMoved) dragging.drop(by(dropped))
    }
    const cancel = (): void => {
      stop()
      dragging.giveUp()
    }
    const pressed = (key: KeyboardEvent): void => {
      if (key.key !== 'Escape') return
      key.preventDefault()
      key.stopPropagation()
      cancel()
    }
    element.addEventListener('pointermove', move)
    element.addEventListener('pointerup', up)
    element.addEventListener('pointercancel', cancel)
    window.addEventListener('keydown', pressed, true)
  }
}

/** Moves a mark with what it carries: cards by the scene, marks by their elements, the document on the drop. */
const carrying = (app: App, scene: Scene, id: string, words: string): Dragging => {
  const { patch, change } = app.document.getState(),
    { modules, marks } = carriedBy(patch, id)
  const elements = marks.flatMap((mark) => document.querySelector<HTMLElement>(`[data-mark="${mark}"]`) ?? [])
  const put = ({ x, y }: Point): void => {
    for (const element of elements) element.style.translate = `${x}px ${y}px`
    const places = modules.flatMap((one) => {
      const module = patchIndex(patch).module.get(one)
      return module ? [[one, { x: (module.x ?? 0) + x, y: (module.y ?? 0) + y }] as const] : []
    })
    if (places.length > 0) scene.hold(new Map(places))
  }
  const back = (): void => {
    for (const element of elements) element.style.translate = ''
    scene.letGo()
  }
  return {
    move: put,
    drop: ({ x, y }) => {
      for (const element of elements) element.style.translate = ''
      const isTaken =
        (x !== 0 || y !== 0) &&
        change(words, (draft) => {
          moveMark(draft, id, x, y)
        })
      if (!isTaken) scene.letGo()
    },
    giveUp: back,
  }
}

/** The lower right corner, that sizes it. */
const Corner = ({
  mark,
  words,
}: {
  readonly mark: Rect & { readonly id: string }
  readonly words: string
}) => {
  const app = useApp(),
    drag = useDrag()
  return (
    <span
      className="mark-corner nopan"
      aria-hidden="true"
      onPointerDown={(event) => {
        if (event.button !== 0) return
        const element = event.currentTarget.parentElement!
        const { width, height } = mark
        const back = (): void => {
          element.style.width = `${width}px`
          element.style.height = `${height}px`
        }
        drag(event, {
          move: ({ x, y }) => {
            element.style.width = `${width + x}px`
            element.style.height = `${height + y}px`
          },
          drop: ({ x, y }) => {
            back()
            app.document.getState().change(words, (draft) => {
              sizeMark(draft, mark.id, width + x, height + y)
            })
          },
          giveUp: back,
        })
      }}
    />
  )
}

interface BoxProps {
  readonly mark: Rect & { readonly id: string }
  readonly className: string
  readonly label: string
  readonly children: ReactNode
}

const MarkBox = ({ mark, className, label, children }: BoxProps) => {
  const app = useApp()
  const isSelected = useWorkspace((state) => state.mark === mark.id)
  const { id, x, y, width, height } = mark
  return (
    <div
      className={`${className} nokey`}
      data-mark={id}
      data-selected={isSelected}
      role="group"
      tabIndex={0}
      aria-label={label}
      style={{ left: x, top: y, width, height }}
      onFocus={(event) => {
        if (event.target === event.currentTarget && event.currentTarget.matches(':focus-visible'))
          app.workspace.getState().selectMark(id)
      }}
    >
      {children}
    </div>
  )
}

interface TextProps {
  readonly id: string
  readonly text: string
  readonly label: string
  readonly step: string
}

/** Its text while it is typed. */
const Typing = ({ id, text, label, step }: TextProps) => {
  const { document, workspace } = useApp()
  return (
    <TextField
      autoFocus
      className="nodrag"
      label={label}
      value={text}
      onCommit={(typed) => {
        document.getState().change(step, (draft) => {
          writeMark(draft, id, typed.trim())
        })
        return undefined
      }}
      onDone={() => {
        workspace.getState().rename(undefined)
      }}
    />
  )
}

const FrameBox = memo(({ frame }: { readonly frame: Frame }) => {
  const app = useApp(),
    scene = useScene(),
    drag = useDrag()
  const isTyping = useWorkspace((state) => state.renaming === frame.id)
  const name = frame.title || 'Frame'
  return (
    <MarkBox mark={frame} className="mark-frame" label={`Frame ${name}`}>
      <div
        className="mark-title nopan"
        onPointerDown={(event) => {
          if (event.button !== 0 || isTyping) return
          app.workspace.getState().selectMark(frame.id)
          drag(event, carrying(app, scene, frame.id, `Move ${name}`))
        }}
        onDoubleClick={(event) => {
          event.stopPropagation()
          app.workspace.getState().rename(frame.id)
        }}
      >
        {isTyping ? (
          <Typing id={frame.id} text={frame.title} label="Title of the frame" step="Name a frame" />
        ) : (
          <span className="truncate">{name}</span>
        )}
      </div>
      <Corner mark={frame} words="Size a frame" />
    </MarkBox>
  )
})

const NoteBox = memo(({ note }: { readonly note: CanvasNote }) => {
  const app = useApp(),
    scene = useScene(),
    drag = useDrag()
  const isTyping = useWorkspace((state) => state.renaming === note.id)
  const text = useRef<HTMLTextAreaElement>(null)
  const close = (isTaken: boolean): void => {
    const typed = text.current?.value ?? note.text
    if (isTaken && typed !== note.text)
      app.document.getState().change('Write a note', (draft) => {
        writeMark(draft, note.id, typed)
      })
    app.workspace.getState().rename(undefined)
  }
  return (
    <MarkBox mark={note} className="mark-note" label={`Note ${note.text}`}>
      {isTyping ? (
        <textarea
          ref={text}
          autoFocus
          className="mark-text nopan nodrag nowheel"
          aria-label="Text of the note"
          defaultValue={note.text}
          onBlur={() => {
            close(true)
          }}
          onKeyDown={(event) => {
            event.stopPropagation()
            if (event.key !== 'Escape' && !(event.key === 'Enter' && (event.ctrlKey || event.metaKey))) return
            event.preventDefault()
            close(event.key === 'Enter')
            app.chart.focus()
          }}
        />
      ) : (
        <div
          className="mark-text nopan"
          onPointerDown={(event) => {
            if (event.button !== 0) return
            app.workspace.getState().selectMark(note.id)
            drag(event, carrying(app, scene, note.id, 'Move a note'))
          }}
          onDoubleClick={(event) => {
            event.stopPropagation()
            app.workspace.getState().rename(note.id)
          }}
        >
          {note.text || 'A note'}
        </div>
      )}
      <Corner mark={note} words="Size a note" />
    </MarkBox>
  )
})

/** Under the cards. */
export const CanvasMarks = () => {
  const { frames, notes } = useDocument((state) => marksOf(state.patch))
  return (
    <>
      {frames.map((frame) => (
        <FrameBox key={frame.id} frame={frame} />
      ))}
      {notes.map((note) => (
        <NoteBox key={note.id} note={note} />
      ))}
    </>
  )
}
