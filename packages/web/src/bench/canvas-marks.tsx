/** Frames and notes on the chart: a frame moves what is in it, a note says what cards do not. */
import { type CanvasNote, type Frame, marksOf, type Rect, sizeMark, writeMark } from '@ypsilon/core'
import { memo, type ReactNode, useRef } from 'react'
import { useApp, useLevel, useWorkspace } from '../app/context.ts'
import { marksLevel } from '../commands/marks.ts'
import { TextField } from '../ui/text-field.tsx'
import { carrying, useDrag } from './mark-drag.ts'
import { useScene } from './scene-context.ts'

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
              sizeMark(marksLevel(app, draft), mark.id, width + x, height + y)
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
  const app = useApp(),
    { document, workspace } = app
  return (
    <TextField
      autoFocus
      className="nodrag"
      label={label}
      value={text}
      onCommit={(typed) => {
        document.getState().change(step, (draft) => {
          writeMark(marksLevel(app, draft), id, typed.trim())
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

/** A note while it is written: taken by leaving and by Ctrl+Enter, given up by Escape. */
const NoteTyping = ({ note }: { readonly note: CanvasNote }) => {
  const app = useApp()
  const text = useRef<HTMLTextAreaElement>(null)
  // What goes away loses the focus as well: that is told once.
  const isOpen = useRef(false)
  const close = (isTaken: boolean): void => {
    if (!isOpen.current) return
    isOpen.current = false
    const typed = text.current?.value ?? note.text
    if (isTaken && typed !== note.text)
      app.document.getState().change('Write a note', (draft) => {
        writeMark(marksLevel(app, draft), note.id, typed)
      })
    app.workspace.getState().rename(undefined)
  }
  return (
    <textarea
      ref={text}
      autoFocus
      className="mark-text nopan nodrag nowheel"
      aria-label="Text of the note"
      defaultValue={note.text}
      onFocus={() => {
        isOpen.current = true
      }}
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
  )
}

const NoteBox = memo(({ note }: { readonly note: CanvasNote }) => {
  const app = useApp(),
    scene = useScene(),
    drag = useDrag()
  const isTyping = useWorkspace((state) => state.renaming === note.id)
  return (
    <MarkBox mark={note} className="mark-note" label={`Note ${note.text}`}>
      {isTyping ? (
        <NoteTyping note={note} />
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
  const { frames, notes } = useLevel(marksOf)
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
