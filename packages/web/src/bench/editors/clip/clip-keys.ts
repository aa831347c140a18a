/** What keys do in a clip. */
import { movedNotes, stretchedNotes, withNote, withoutNotes } from '@ypsilon/core/describe/clips.ts'
import { type ClipParts, nudgeVelocity, writeClip } from './clip-hand.ts'

type Press = Pick<KeyboardEvent, 'key' | 'shiftKey' | 'altKey' | 'ctrlKey' | 'metaKey'>

/** Semitones and steps of the grid that an arrow moves by; with Shift an octave or a bar. */
const WAYS: ReadonlyMap<string, readonly [beats: number, semitones: number]> = new Map([
  ['ArrowUp', [0, 1]],
  ['ArrowDown', [0, -1]],
  ['ArrowLeft', [-1, 0]],
  ['ArrowRight', [1, 0]],
])
const BAR = 4,
  OCTAVE = 12,
  FINE_BEATS = 1 / 16
/** What PageUp adds to a velocity. */
const LOUDER = 0.05

/** The next note in time, or the one before. */
const goTo = ({ clip, chosen, choose }: ClipParts, by: 1 | -1): void => {
  const order = [...clip.keys()].sort(
    (a, b) => clip[a]!.start - clip[b]!.start || clip[a]!.note - clip[b]!.note,
  )
  if (order.length === 0) return
  const places = [...chosen].map((index) => order.indexOf(index)).filter((place) => place >= 0)
  const from =
    places.length === 0 ? (by > 0 ? -1 : order.length) : by > 0 ? Math.max(...places) : Math.min(...places)
  choose(new Set([order[(from + by + order.length) % order.length]!]))
}

const insert = (parts: ClipParts): void => {
  const { clip, chosen, grid, layer, low, high, choose } = parts
  const last = [...chosen].map((index) => clip[index]).at(-1) ?? clip.at(-1)
  const next = withNote(clip, {
    start: last ? last.start + last.length : 0,
    length: last?.length ?? (grid > 0 ? grid : 1),
    note: last?.note ?? Math.round((low + high) / 2),
    velocity: last?.velocity ?? 0.8,
    ...(layer > 0 ? { layer } : {}),
  })
  if (!next) return
  writeClip(parts, next, 'Put a note')
  choose(new Set([clip.length]))
}

const stepOf = ({ grid }: ClipParts): number => (grid > 0 ? grid : FINE_BEATS)

const move = (
  parts: ClipParts,
  [beats, semitones]: readonly [number, number],
  isFar: boolean,
  gesture: string,
): void => {
  const { clip, chosen } = parts,
    way = beats * (isFar ? BAR : stepOf(parts))
  writeClip(parts, movedNotes(clip, chosen, way, semitones * (isFar ? OCTAVE : 1)), 'Move notes', gesture)
}

const stretch = (parts: ClipParts, by: 1 | -1, gesture: string): void => {
  const next = stretchedNotes(parts.clip, parts.chosen, by * stepOf(parts))
  writeClip(parts, next, by > 0 ? 'Make notes longer' : 'Make notes shorter', gesture)
}

const takeAway = (parts: ClipParts): void => {
  const { clip, chosen, choose } = parts
  const words = chosen.size > 1 ? `Take away ${chosen.size} notes` : 'Take a note away'
  writeClip(parts, withoutNotes(clip, chosen), words)
  choose(new Set())
}

type Act = (parts: ClipParts, gesture: () => string) => void
/** What is done to what is chosen. */
const ACTS: ReadonlyMap<string, Act> = new Map<string, Act>([
  [
    'PageUp',
    (parts, gesture) => {
      nudgeVelocity(parts, LOUDER, gesture())
    },
  ],
  [
    'PageDown',
    (parts, gesture) => {
      nudgeVelocity(parts, -LOUDER, gesture())
    },
  ],
  [
    '+',
    (parts, gesture) => {
      stretch(parts, 1, gesture())
    },
  ],
  [
    '-',
    (parts, gesture) => {
      stretch(parts, -1, gesture())
    },
  ],
  ['Delete', takeAway],
  ['Backspace', takeAway],
])

/** Does what a key means; false where it means nothing here. `gesture`: presses that follow at once are one step. */
export const keyInClip = (parts: ClipParts, press: Press, gesture: () => string): boolean => {
  const { key, shiftKey, altKey } = press,
    { clip, chosen, choose } = parts
  if (press.ctrlKey || press.metaKey) {
    if (key.toLowerCase() !== 'a') return false
    choose(new Set(clip.keys()))
    return true
  }
  if (key === 'Insert') {
    insert(parts)
    return true
  }
  const way = WAYS.get(key),
    act = ACTS.get(key)
  if (way && way[0] !== 0 && !altKey && !shiftKey) {
    goTo(parts, way[0] > 0 ? 1 : -1)
    return true
  }
  if (chosen.size === 0 || (!way && !act)) return false
  if (way) move(parts, way, shiftKey, gesture())
  else act!(parts, gesture)
  return true
}
