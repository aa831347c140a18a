/** Hands on a clip: notes put, moved, made longer, chosen by a frame, and given velocities. */
import {
  type Chosen,
  type Clip,
  movedNotes,
  onGrid,
  SHORTEST,
  stretchedNotes,
  velocityOf,
  withNote,
  withVelocity,
} from '@ypsilon/core/describe/clips.ts'
import type { PointerEvent } from 'react'
import type { App } from '../../../app/app.ts'
import { setData } from '../../data-text.ts'
import { newGesture } from '../../fields/types.ts'
import { followPointer } from '../../follow-pointer.ts'

export interface ClipParts {
  readonly app: App
  readonly id: string
  readonly name: string
  readonly data: string
  readonly clip: Clip
  readonly chosen: Chosen
  readonly choose: (chosen: Chosen) => void
  /** Beats that are shown, and the notes between which. */
  readonly beats: number
  readonly low: number
  readonly high: number
  /** In beats; 0: none. */
  readonly grid: number
  readonly layer: number
}

/** What begins where a hand puts it is as long as this, without a grid. */
const PLAIN_LENGTH = 0.5
const FRESH_VELOCITY = 0.8

export const writeClip = (
  { app, id, data, name }: ClipParts,
  clip: Clip,
  words: string,
  gesture = newGesture('clip'),
): void => {
  setData(app, id, data, clip, { words: `${words} in ${name}`, gesture: `${id}.${data} ${gesture}` })
}

const giveUp = ({ app, id, data }: ClipParts, gesture: string): void => {
  app.document.getState().giveUp(`${id}.${data} ${gesture}`)
}

export interface Place {
  readonly beat: number
  readonly note: number
}

/** Where on the sheet a pointer is: a beat, and a note whose row it is in. */
export const placeAt = (
  { beats, low, high }: Pick<ClipParts, 'beats' | 'low' | 'high'>,
  { left, top, width, height }: DOMRect,
  { clientX, clientY }: { readonly clientX: number; readonly clientY: number },
): Place => {
  const rows = high - low + 1
  return {
    beat: (beats * (clientX - left)) / width,
    note: high - Math.floor((rows * (clientY - top)) / height),
  }
}

/** The line of the grid at or before a beat. */
const lineBefore = (beat: number, grid: number): number =>
  grid > 0 ? onGrid(Math.floor(beat / grid + 1e-6) * grid, grid) : beat

/** One more note, whose length is drawn until the button is let go; its place in the clip. */
export const putNote = (parts: ClipParts, event: PointerEvent<HTMLElement>, area: DOMRect): void => {
  const { grid, layer, clip, choose } = parts,
    gesture = newGesture('put')
  const isFree = event.altKey,
    place = placeAt(parts, area, event),
    start = Math.max(0, lineBefore(place.beat, isFree ? 0 : grid)),
    least = grid > 0 ? grid : PLAIN_LENGTH
  const put = (length: number): void => {
    const next = withNote(clip, {
      start,
      length: Math.max(SHORTEST, length),
      note: place.note,
      velocity: FRESH_VELOCITY,
      ...(layer > 0 ? { layer } : {}),
    })
    if (next) writeClip(parts, next, 'Put a note', gesture)
    else parts.app.notifier.warning('A clip holds 4096 notes at the most.')
  }
  put(least)
  choose(new Set([clip.length]))
  followPointer(event, {
    move: (moved) => {
      const { beat } = placeAt(parts, area, moved)
      put(Math.max(least, onGrid(beat - start, moved.altKey ? 0 : grid)))
    },
    drop: () => undefined,
    giveUp: () => {
      giveUp(parts, gesture)
      choose(new Set())
    },
  })
}

/** Moves what is chosen by what the pointer moves, or makes it longer from its end. */
export const dragNotes = (
  parts: ClipParts,
  event: PointerEvent<HTMLElement>,
  area: DOMRect,
  chosen: Chosen,
  isEnd: boolean,
): void => {
  const { clip, grid } = parts,
    from = placeAt(parts, area, event),
    gesture = newGesture('drag')
  followPointer(event, {
    move: (moved) => {
      const { beat, note } = placeAt(parts, area, moved),
        way = onGrid(beat - from.beat, moved.altKey ? 0 : grid)
      if (isEnd) writeClip(parts, stretchedNotes(clip, chosen, way), 'Make notes longer', gesture)
      else writeClip(parts, movedNotes(clip, chosen, way, note - from.note), 'Move notes', gesture)
    },
    drop: () => undefined,
    giveUp: () => {
      giveUp(parts, gesture)
    },
  })
}

/** Chooses what lies in a frame that is drawn; with Ctrl beside what is chosen already. */
export const frameNotes = (
  parts: ClipParts,
  event: PointerEvent<HTMLElement>,
  area: DOMRect,
  show: (frame: readonly [Place, Place] | undefined) => void,
): void => {
  const { clip, choose, layer } = parts,
    from = placeAt(parts, area, event),
    before = event.ctrlKey ? parts.chosen : new Set<number>()
  choose(before)
  followPointer(event, {
    move: (moved) => {
      const to = placeAt(parts, area, moved)
      show([from, to])
      const [left, right] = [Math.min(from.beat, to.beat), Math.max(from.beat, to.beat)],
        [low, high] = [Math.min(from.note, to.note), Math.max(from.note, to.note)]
      const within = clip.flatMap((note, index) =>
        note.start < right &&
        note.start + note.length > left &&
        note.note >= low &&
        note.note <= high &&
        (layer < 0 || (note.layer ?? 0) === layer)
          ? [index]
          : [],
      )
      choose(new Set([...before, ...within]))
    },
    drop: () => {
      show(undefined)
    },
    giveUp: () => {
      show(undefined)
      choose(before)
    },
  })
}

/** A note within so many pixels of the pointer has its velocity drawn. */
const NEAR_PX = 7

/** Draws velocities: of what is chosen, or of all that the pointer passes. */
export const drawVelocity = (parts: ClipParts, event: PointerEvent<HTMLElement>): void => {
  const area = event.currentTarget.getBoundingClientRect(),
    gesture = newGesture('velocity'),
    { chosen, beats } = parts
  let { clip } = parts
  const put = ({ clientX, clientY }: { readonly clientX: number; readonly clientY: number }): void => {
    const velocity = 1 - (clientY - area.top) / area.height
    const near = clip.flatMap((note, index) =>
      Math.abs(area.left + (note.start / beats) * area.width - clientX) < NEAR_PX ? [index] : [],
    )
    const own = near.filter((index) => chosen.has(index))
    if (near.length === 0) return
    clip = withVelocity(clip, new Set(own.length > 0 ? own : near), () => velocity)
    writeClip(parts, clip, 'Draw velocities', gesture)
  }
  put(event)
  followPointer(event, {
    move: put,
    drop: () => undefined,
    giveUp: () => {
      giveUp(parts, gesture)
    },
  })
}

/** Velocities of what is chosen, louder or softer by so much. */
export const nudgeVelocity = (parts: ClipParts, by: number, gesture: string): void => {
  const next = withVelocity(parts.clip, parts.chosen, (note) => velocityOf(note) + by)
  writeClip(parts, next, by > 0 ? 'Play louder' : 'Play softer', gesture)
}
