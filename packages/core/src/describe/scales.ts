/** Scales of twelve semitones by their usual names, as semitones from their root. */
export const SCALES: ReadonlyMap<string, readonly number[]> = new Map([
  ['chromatic', [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11]],
  ['major', [0, 2, 4, 5, 7, 9, 11]],
  ['natural minor', [0, 2, 3, 5, 7, 8, 10]],
  ['harmonic minor', [0, 2, 3, 5, 7, 8, 11]],
  ['melodic minor', [0, 2, 3, 5, 7, 9, 11]],
  ['dorian', [0, 2, 3, 5, 7, 9, 10]],
  ['phrygian', [0, 1, 3, 5, 7, 8, 10]],
  ['lydian', [0, 2, 4, 6, 7, 9, 11]],
  ['mixolydian', [0, 2, 4, 5, 7, 9, 10]],
  ['locrian', [0, 1, 3, 5, 6, 8, 10]],
  ['major pentatonic', [0, 2, 4, 7, 9]],
  ['minor pentatonic', [0, 3, 5, 7, 10]],
  ['blues', [0, 3, 5, 6, 7, 10]],
  ['whole tone', [0, 2, 4, 6, 8, 10]],
  ['diminished', [0, 2, 3, 5, 6, 8, 9, 11]],
  ['fifths', [0, 7]],
  ['octaves', [0]],
])

export const SEMITONES = 12

/** Twelve switches of a scale's semitones. */
export const switchesOf = (semitones: readonly number[]): readonly boolean[] =>
  Array.from({ length: SEMITONES }, (_, n) => semitones.includes(n))

/** The name of a scale by its switches; undefined where it has none. */
export const scaleName = (switches: readonly unknown[]): string | undefined => {
  const on = Array.from({ length: SEMITONES }, (_, n) => switches[n] === true || switches[n] === 1)
  for (const [name, semitones] of SCALES) if (on.every((is, n) => is === semitones.includes(n))) return name
  return undefined
}

/** The same notes counted from another root: what is played stays, what is called the root does not. */
export const fromRoot = (switches: readonly unknown[], by: number): readonly boolean[] =>
  Array.from({ length: SEMITONES }, (_, n) => {
    const at = switches[(n + by + SEMITONES) % SEMITONES]
    return at === true || at === 1
  })
