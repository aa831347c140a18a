/** Day and night. */
import type { Frames } from '../bench/frames.ts'
import type { Theme, WorkspaceStore } from '../store/workspace.ts'

export const systemNight = (): MediaQueryList => window.matchMedia('(prefers-color-scheme: dark)')

/** What a theme means here and now. */
export const isNight = (theme: Theme): boolean =>
  theme === 'night' || (theme === 'system' && systemNight().matches)

/** Shows the chosen theme, and follows the system where that is chosen. Given back: how to stop that. */
export const followTheme = (workspace: WorkspaceStore, frames: Frames): (() => void) => {
  const apply = (): void => {
    document.documentElement.dataset['theme'] = isNight(workspace.getState().theme) ? 'night' : 'day'
    frames.forgetColours()
  }
  apply()
  const system = systemNight()
  system.addEventListener('change', apply)
  const unsubscribe = workspace.subscribe(({ theme }, before) => {
    if (theme !== before.theme) apply()
  })
  return () => {
    unsubscribe()
    system.removeEventListener('change', apply)
  }
}
