import type { Context } from 'koa'

/** A part of what the server does, under a path of its own: the page now, jobs later. */
export interface Part {
  /** Paths that begin so are its own; of several, the longest holds. */
  readonly under: string
  readonly methods: readonly string[]
  serve(context: Context): Promise<void>
}

/** Who answers under a path. Throws RangeError without a part for everything (`/`). */
export const partUnder = (parts: readonly Part[]): ((path: string) => Part) => {
  const longestFirst = [...parts].sort((a, b) => b.under.length - a.under.length),
    rest = longestFirst.find(({ under }) => under === '/')
  if (!rest) throw new RangeError('One part has to answer everything else')
  return (path) => longestFirst.find(({ under }) => path.startsWith(under)) ?? rest
}
