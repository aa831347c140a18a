/** Clips of notes as hands change them: put, moved, made longer, voiced anew, drawn by lot. All of it pure. */

/** A note of a clip: times in beats, velocity 0…1 (1 when left out), layer 0 when left out. */
export interface ClipNote {
  readonly start: number
  readonly length: number
  readonly note: number
  readonly velocity?: number
  readonly layer?: number
}
export type Clip = readonly ClipNote[]
/** Places of notes in a clip. */
export type Chosen = ReadonlySet<number>

export const HIGHEST_NOTE = 127
export const MOST_NOTES = 4096
const LAST_BEAT = 1e6
/** The shortest note, in beats: a 64th of a bar's quarter would be no note any more. */
export const SHORTEST = 1 / 64
/** Notes this near to each other begin together. */
const TOGETHER = 1e-3

const within = (x: number, low: number, high: number): number => Math.min(high, Math.max(low, x))
/** Sums of thirds and sixteenths stay what they are read as. */
export const rounded = (beats: number): number => Math.round(beats * 1e6) / 1e6

export const velocityOf = ({ velocity = 1 }: ClipNote): number => velocity
export const layerOf = ({ layer = 0 }: ClipNote): number => layer

/** Beats on a grid; 0: as they are. */
export const onGrid = (beats: number, grid: number): number =>
  rounded(grid > 0 ? Math.round(beats / grid) * grid : beats)

const changed = (clip: Clip, chosen: Chosen, change: (note: ClipNote, index: number) => ClipNote): Clip =>
  clip.map((note, index) => (chosen.has(index) ? change(note, index) : note))

/** One more note, behind all others; undefined where there is no room for it. */
export const withNote = (clip: Clip, note: ClipNote): Clip | undefined =>
  clip.length >= MOST_NOTES
    ? undefined
    : [
        ...clip,
        {
          ...note,
          start: rounded(within(note.start, 0, LAST_BEAT)),
          length: rounded(Math.max(SHORTEST, note.length)),
          note: within(note.note, 0, HIGHEST_NOTE),
        },
      ]

export const withoutNotes = (clip: Clip, chosen: Chosen): Clip =>
  clip.filter((_, index) => !chosen.has(index))

const chosenOf = (clip: Clip, chosen: Chosen): ClipNote[] => clip.filter((_, index) => chosen.has(index))

/** Moved all alike, as far as every one of them may go. */
export const movedNotes = (clip: Clip, chosen: Chosen, beats: number, semitones: number): Clip => {
  const moved = chosenOf(clip, chosen)
  if (moved.length === 0) return clip
  const first = Math.min(...moved.map(({ start }) => start)),
    pitches = moved.map(({ note }) => note)
  const on = Math.max(-first, beats),
    up = within(semitones, -Math.min(...pitches), HIGHEST_NOTE - Math.max(...pitches))
  return changed(clip, chosen, (note) => ({
    ...note,
    start: rounded(note.start + on),
    note: rounded(note.note + up),
  }))
}

/** Longer or shorter, none shorter than the shortest. */
export const stretchedNotes = (clip: Clip, chosen: Chosen, beats: number): Clip =>
  changed(clip, chosen, (note) => ({ ...note, length: rounded(Math.max(SHORTEST, note.length + beats)) }))

export const withVelocity = (clip: Clip, chosen: Chosen, velocity: (note: ClipNote) => number): Clip =>
  changed(clip, chosen, (note) => ({
    ...note,
    velocity: Math.round(1000 * within(velocity(note), 0, 1)) / 1000,
  }))

export const inLayer = (clip: Clip, chosen: Chosen, layer: number): Clip =>
  changed(clip, chosen, ({ layer: _, ...note }) => (layer > 0 ? { ...note, layer } : note))

/** Chosen notes that begin together, the lowest of each first. */
const chordsOf = (clip: Clip, chosen: Chosen): readonly (readonly number[])[] => {
  const places = [...chosen]
    .filter((index) => index < clip.length)
    .sort((a, b) => clip[a]!.start - clip[b]!.start || clip[a]!.note - clip[b]!.note)
  const chords: number[][] = []
  for (const index of places) {
    const last = chords.at(-1)
    if (last && clip[index]!.start - clip[last[0]!]!.start < TOGETHER) last.push(index)
    else chords.push([index])
  }
  return chords.map((chord) => [...chord].sort((a, b) => clip[a]!.note - clip[b]!.note))
}

/** Octaves some notes are moved by, where they have room for it. */
const byOctaves = (clip: Clip, octaves: ReadonlyMap<number, number>): Clip =>
  clip.map((note, index) => {
    const next = note.note + 12 * (octaves.get(index) ?? 0)
    return next < 0 || next > HIGHEST_NOTE || next === note.note ? note : { ...note, note: next }
  })

/** Every second note of each chord, counted from below, an octave up: a close chord becomes an open one. */
const spread = (clip: Clip, chosen: Chosen): Clip =>
  byOctaves(
    clip,
    new Map(
      chordsOf(clip, chosen).flatMap((chord) =>
        chord.filter((_, place) => place % 2 === 1).map((index) => [index, 1] as const),
      ),
    ),
  )

/** The lowest note of each chord an octave up, or the highest one down. */
const inverted = (clip: Clip, chosen: Chosen, up: boolean): Clip =>
  byOctaves(
    clip,
    new Map(
      chordsOf(clip, chosen).flatMap((chord) =>
        chord.length > 1 ? [[up ? chord[0]! : chord.at(-1)!, up ? 1 : -1] as const] : [],
      ),
    ),
  )

/** High becomes low, around the middle between the lowest and the highest. */
const mirrored = (clip: Clip, chosen: Chosen): Clip => {
  const pitches = chosenOf(clip, chosen).map(({ note }) => note)
  const sum = Math.min(...pitches) + Math.max(...pitches)
  return changed(clip, chosen, (note) => ({ ...note, note: sum - note.note }))
}

/** The last becomes the first, within the time all of them take. */
const backwards = (clip: Clip, chosen: Chosen): Clip => {
  const notes = chosenOf(clip, chosen)
  const begin = Math.min(...notes.map(({ start }) => start)),
    end = Math.max(...notes.map(({ start, length }) => start + length))
  return changed(clip, chosen, (note) => ({
    ...note,
    start: rounded(begin + end - note.start - note.length),
  }))
}

/** How far a hand is off, in beats, and how much louder or softer. */
const HAND_BEATS = 0.03,
  HAND_VELOCITY = 0.12

/** As a hand would play it: a little early or late, a little louder or softer. */
const humanised = (clip: Clip, chosen: Chosen, random: () => number): Clip =>
  changed(clip, chosen, (note) => ({
    ...note,
    start: rounded(Math.max(0, note.start + HAND_BEATS * (2 * random() - 1))),
    velocity:
      Math.round(1000 * within(velocityOf(note) + HAND_VELOCITY * (2 * random() - 1), 0.05, 1)) / 1000,
  }))

/** Until the next one of them begins. */
const joined = (clip: Clip, chosen: Chosen): Clip => {
  const starts = [...new Set(chosenOf(clip, chosen).map(({ start }) => start))].sort((a, b) => a - b)
  return changed(clip, chosen, (note) => {
    const next = starts.find((start) => start > note.start + TOGETHER)
    return next === undefined ? note : { ...note, length: rounded(next - note.start) }
  })
}

export const CLIP_CHANGES = [
  'an octave up',
  'an octave down',
  'spread over octaves',
  'invert up',
  'invert down',
  'mirror',
  'backwards',
  'humanise',
  'onto the grid',
  'joined',
  'twice as long',
  'half as long',
] as const
export type ClipChange = (typeof CLIP_CHANGES)[number]

/** Chosen notes changed together; `grid` in beats, 0: none. */
export const changedClip = (
  clip: Clip,
  chosen: Chosen,
  change: ClipChange,
  { grid, random }: { readonly grid: number; readonly random: () => number },
): Clip => {
  if (![...chosen].some((index) => index < clip.length)) return clip
  const scaled = (by: number): Clip => {
    const first = Math.min(...chosenOf(clip, chosen).map(({ start }) => start))
    return changed(clip, chosen, (note) => ({
      ...note,
      start: rounded(first + by * (note.start - first)),
      length: rounded(Math.max(SHORTEST, by * note.length)),
    }))
  }
  switch (change) {
    case 'an octave up':
      return movedNotes(clip, chosen, 0, 12)
    case 'an octave down':
      return movedNotes(clip, chosen, 0, -12)
    case 'spread over octaves':
      return spread(clip, chosen)
    case 'invert up':
      return inverted(clip, chosen, true)
    case 'invert down':
      return inverted(clip, chosen, false)
    case 'mirror':
      return mirrored(clip, chosen)
    case 'backwards':
      return backwards(clip, chosen)
    case 'humanise':
      return humanised(clip, chosen, random)
    case 'onto the grid':
      return changed(clip, chosen, (note) => ({ ...note, start: onGrid(note.start, grid) }))
    case 'joined':
      return joined(clip, chosen)
    case 'twice as long':
      return scaled(2)
    case 'half as long':
      return scaled(0.5)
  }
}

/** Lowest and highest note that is shown. */
export interface NoteRange {
  readonly low: number
  readonly high: number
}

/** What goes on being shown while notes are put: as it was, and wider only where one of them would not be seen. */
export const keptRange = (clip: Clip, before: NoteRange | undefined): NoteRange => {
  const wanted = shownNotes(clip)
  if (!before) return wanted
  const isSeen = clip.every(({ note }) => note >= before.low && note <= before.high)
  return isSeen ? before : { low: Math.min(before.low, wanted.low), high: Math.max(before.high, wanted.high) }
}

/** Notes that are shown: lowest and highest, an octave around what there is, two octaves at least. */
export const shownNotes = (clip: Clip): NoteRange => {
  const pitches = clip.map(({ note }) => note)
  const low = pitches.length > 0 ? Math.min(...pitches) : 57,
    high = pitches.length > 0 ? Math.max(...pitches) : 69
  const room = Math.max(4, Math.ceil((24 - (high - low)) / 2))
  const from = within(Math.floor(low) - room, 0, HIGHEST_NOTE - 24)
  return { low: from, high: within(Math.ceil(high) + room, from + 24, HIGHEST_NOTE) }
}
