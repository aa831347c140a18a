/** The views of the page, in the order of the top bar. */
import type { View } from '../commands/command.ts'

export interface ViewPlace {
  readonly view: View
  readonly path: string
  readonly label: string
}

export const VIEWS: readonly ViewPlace[] = [
  { view: 'bench', path: '/', label: 'Bench' },
  { view: 'guide', path: '/guide', label: 'Guide' },
  { view: 'devices', path: '/devices', label: 'Devices' },
]

/** The view an address shows. */
export const viewAt = (path: string): View => VIEWS.find((view) => view.path === path)?.view ?? 'guide'
