/** The sheet of a clip: rows of notes over beats, and their velocities below. */
import { noteName } from '@ypsilon/core'
import { type ClipNote, layerOf, velocityOf, withoutNotes } from '@ypsilon/core/describe/clips.ts'
import { memo, type MouseEvent, type PointerEvent, type RefObject, useRef, useState } from 'react'
import { useNudge } from '../../fields/use-nudge.ts'
import { LiveLine } from '../live-line.tsx'
import {
  type ClipParts,
  drawVelocity,
  dragNotes,
  frameNotes,
  type Place,
  putNote,
  writeClip,
} from './clip-hand.ts'
import { keyInClip } from './clip-keys.ts'

/** Pixels at a note's end that make it longer. */
const END_PX = 6
const BLACK = new Set([1, 3, 6, 8, 10])

const isBlack = (note: number): boolean => BLACK.has(((note % 12) + 12) % 12)

interface RowsProps {
  readonly low: number
  readonly high: number
}

/** Rows as keys lie: black ones shaded, names at every C. */
const Rows = memo(({ low, high }: RowsProps) => (
  <>
    {Array.from({ length: high - low + 1 }, (_, n) => high - n).map((note) => (
      <span
        key={note}
        className="clip-row"
        data-black={isBlack(note)}
        data-c={note % 12 === 0}
        aria-hidden="true"
      >
        {note % 12 === 0 && <span className="clip-name mono">{noteName(note)}</span>}
      </span>
    ))}
  </>
))

interface NoteProps extends RowsProps {
  readonly note: ClipNote
  readonly index: number
  readonly beats: number
  readonly isChosen: boolean
  readonly isAside: boolean
}

const numberWords = (value: number): string => String(Math.round(value * 1000) / 1000)

const Note = memo(({ note, index, beats, low, high, isChosen, isAside }: NoteProps) => {
  const rows = high - low + 1
  return (
    <span
      role="option"
      aria-selected={isChosen}
      className="clip-note"
      data-note-index={index}
      data-layer={layerOf(note)}
      data-aside={isAside}
      aria-label={`${noteName(note.note)}, beat ${numberWords(note.start + 1)}, ${numberWords(note.length)} long, ${Math.round(100 * velocityOf(note))} %`}
      style={{
        left: `${(100 * note.start) / beats}%`,
        width: `max(4px, ${(100 * note.length) / beats}%)`,
        top: `${(100 * (high - note.note)) / rows}%`,
        height: `${100 / rows}%`,
        opacity: 0.35 + 0.65 * velocityOf(note),
      }}
    />
  )
})

const Velocities = ({ parts }: { readonly parts: ClipParts }) => {
  const { clip, beats, chosen } = parts
  return (
    <div
      className="clip-velocities"
      role="group"
      aria-label="Velocities"
      onPointerDown={(event) => {
        if (event.button === 0) drawVelocity(parts, event)
      }}
    >
      {clip.map((note, index) => (
        <span
          key={index}
          className="clip-velocity"
          data-velocity={index}
          data-chosen={chosen.has(index)}
          style={{ left: `${(100 * note.start) / beats}%`, height: `${100 * velocityOf(note)}%` }}
        />
      ))}
    </div>
  )
}

interface SheetProps {
  readonly parts: ClipParts
  /** Pixels a beat has at least. */
  readonly beatPx: number
}

const isOfLayer = (layer: number, note: ClipNote): boolean => layer < 0 || layerOf(note) === layer

/** What the mouse does on the sheet. */
const useClipHand = (parts: ClipParts, field: RefObject<HTMLDivElement | null>) => {
  const [frame, setFrame] = useState<readonly [Place, Place] | undefined>(undefined)
  const { clip, chosen, choose } = parts
  const area = (): DOMRect => field.current!.getBoundingClientRect()
  const indexUnder = (target: EventTarget): number | undefined => {
    const under = (target as Element).closest<HTMLElement>('[data-note-index]')
    return under ? Number(under.dataset['noteIndex']) : undefined
  }
  const pressNote = (event: PointerEvent<HTMLDivElement>, index: number): void => {
    if (event.shiftKey) {
      const next = new Set(chosen)
      if (!next.delete(index)) next.add(index)
      choose(next)
      return
    }
    const box = (event.target as Element).getBoundingClientRect(),
      isEnd = box.right - event.clientX < Math.min(END_PX, box.width / 3),
      held = chosen.has(index) ? chosen : new Set([index])
    choose(held)
    dragNotes(parts, event, area(), held, isEnd)
  }
  return {
    frame,
    onPointerDown: (event: PointerEvent<HTMLDivElement>): void => {
      if (event.button !== 0) return
      const index = indexUnder(event.target)
      field.current?.focus({ preventScroll: true })
      if (index !== undefined) pressNote(event, index)
      else if (event.shiftKey || event.ctrlKey) frameNotes(parts, event, area(), setFrame)
      else putNote(parts, event, area())
    },
    onDoubleClick: (event: MouseEvent<HTMLDivElement>): void => {
      const index = indexUnder(event.target)
      if (index === undefined) return
      writeClip(parts, withoutNotes(clip, new Set([index])), 'Take a note away')
      choose(new Set())
    },
  }
}

interface FrameProps {
  readonly frame: readonly [Place, Place]
  readonly parts: ClipParts
}

const Frame = ({ frame: [a, b], parts: { beats, low, high } }: FrameProps) => {
  const rows = high - low + 1
  return (
    <span
      className="clip-frame"
      style={{
        left: `${(100 * Math.min(a.beat, b.beat)) / beats}%`,
        width: `${(100 * Math.abs(a.beat - b.beat)) / beats}%`,
        top: `${(100 * (high - Math.max(a.note, b.note))) / rows}%`,
        height: `${(100 * (Math.abs(a.note - b.note) + 1)) / rows}%`,
      }}
    />
  )
}

export const ClipSheet = ({ parts, beatPx }: SheetProps) => {
  const { clip, chosen, beats, low, high, grid, layer, app, id, name } = parts
  const field = useRef<HTMLDivElement>(null),
    nudge = useNudge(app),
    { frame, ...hand } = useClipHand(parts, field)
  return (
    <div className="clip-scroll">
      <div className="clip-sheet" style={{ minWidth: beats * beatPx }}>
        <div
          ref={field}
          className="clip-field nokey"
          role="listbox"
          tabIndex={0}
          aria-multiselectable="true"
          aria-label={`Notes of ${name}`}
          data-clip={id}
          style={{ '--beat': `${100 / beats}%`, '--step': `${(100 * (grid || 1)) / beats}%` } as object}
          {...hand}
          onKeyDown={(event) => {
            if (!keyInClip(parts, event, nudge)) return
            event.preventDefault()
            event.stopPropagation()
          }}
        >
          <Rows low={low} high={high} />
          <span className="clip-beats" aria-hidden="true" />
          {clip.map((note, index) => (
            <Note
              key={index}
              note={note}
              index={index}
              beats={beats}
              low={low}
              high={high}
              isChosen={chosen.has(index)}
              isAside={!isOfLayer(layer, note)}
            />
          ))}
          {frame && <Frame frame={frame} parts={parts} />}
          <LiveLine signal={`${id}.beat`} most={beats} />
        </div>
        <Velocities parts={parts} />
      </div>
    </div>
  )
}
