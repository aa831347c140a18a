/** What people will look for and is not built yet. */

export interface Coming {
  readonly label: string
  readonly words: readonly string[]
  /** Types that do something like it, or that it can be built from. */
  readonly instead: readonly string[]
}

export const COMING: readonly Coming[] = [
  { label: 'Vocoder', words: ['bands'], instead: ['formant', 'follower'] },
]
