/** The page's clock. */
import type { Clock } from '../kept/keeper.ts'

export const pageClock: Clock = {
  now: () => Date.now(),
  wait: (milliseconds, then) => setTimeout(then, milliseconds),
  cancel: (waiting) => {
    clearTimeout(waiting as ReturnType<typeof setTimeout> | undefined)
  },
}
