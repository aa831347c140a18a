import { useSyncExternalStore } from 'react'
import { useWorkspace } from './context.ts'
import { isNight, systemNight } from './theme.ts'

const subscribe = (told: () => void): (() => void) => {
  const system = systemNight()
  system.addEventListener('change', told)
  return () => {
    system.removeEventListener('change', told)
  }
}

/** Is it night here and now? Follows the choice, and the system where that is chosen. */
export const useNight = (): boolean => {
  const theme = useWorkspace((state) => state.theme)
  return useSyncExternalStore(subscribe, () => isNight(theme))
}
