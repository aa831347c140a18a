/** Places for what comes without any: the layout is fetched when it is needed. */
import { isPlaced, type Patch, withCableIds } from '@ypsilon/core'

/** Has every module a place? */
export const isWhole = ({ modules }: Patch): boolean => modules.every(isPlaced)

/** The patch as the bench takes it: every cable has an id, every module a place. */
export const readied = async (patch: Patch): Promise<Patch> => {
  const named = withCableIds(patch)
  if (isWhole(named)) return named
  const { placed } = await import('@ypsilon/core/layout/place.ts')
  return placed(named)
}
