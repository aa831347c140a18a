/** Commands that change what is seen. */
import type { App } from '../app/app.ts'
import { isNight } from '../app/theme.ts'
import { showLoads } from '../app/load.ts'
import type { Panel } from '../store/workspace.ts'
import type { Command } from './command.ts'

const BENCH = ['bench'] as const

const panel = (id: Panel, label: string): Command => ({
  id: `panel-${id}`,
  label,
  group: 'Look',
  views: BENCH,
  places: ['chart'],
  run: (app) => {
    app.workspace.getState().togglePanel(id)
  },
})

const dialog = (id: 'palette' | 'shortcuts', label: string, key: string): Command => ({
  id,
  label,
  group: 'Page',
  keys: [key],
  ...(id === 'palette' ? { isForTyping: true } : {}),
  run: (app) => {
    app.workspace.getState().openDialog(id)
  },
})

const view = (id: string, label: string, path: string): Command => ({
  id: `view-${id}`,
  label,
  group: 'Page',
  run: (app) => {
    app.goTo(path)
  },
})

export const LOOK_COMMANDS: readonly Command[] = [
  {
    id: 'find-part',
    label: 'Find and add a part',
    group: 'Add and connect',
    keys: ['/'],
    views: BENCH,
    places: ['chart'],
    run: (app) => {
      app.chart.openFinder()
    },
  },
  {
    id: 'outline',
    label: 'Outline: the patch as a tree',
    group: 'Look',
    keys: ['Ctrl+Alt+O'],
    views: BENCH,
    places: ['chart'],
    run: (app) => {
      const { drawer, openDrawer } = app.workspace.getState()
      openDrawer(drawer === 'outline' ? undefined : 'outline')
    },
  },
  {
    id: 'focus',
    label: 'Focus on the selected module, or return',
    group: 'Look',
    keys: ['Ctrl+Shift+F'],
    views: BENCH,
    places: ['module'],
    can: (app) => {
      const { focus, selection } = app.workspace.getState()
      return focus !== undefined || selection.length === 1 || 'Select one module.'
    },
    run: (app) => {
      const { focus, selection, focusOn } = app.workspace.getState()
      focusOn(focus === undefined ? selection[0] : undefined)
    },
  },
  {
    id: 'mini-map',
    label: 'Mini-map',
    group: 'Look',
    keys: ['Ctrl+M'],
    views: BENCH,
    places: ['chart'],
    run: (app) => {
      const { isMapShown, showMap } = app.workspace.getState()
      showMap(!isMapShown)
    },
  },
  {
    id: 'connect',
    label: 'Connect by typing',
    group: 'Add and connect',
    keys: ['Ctrl+K'],
    views: BENCH,
    places: ['chart'],
    run: (app) => {
      app.workspace.getState().connectFrom({})
    },
  },
  {
    id: 'connect-bundle',
    label: 'Connect all that are selected to one input',
    group: 'Add and connect',
    keys: ['Ctrl+Shift+K'],
    views: BENCH,
    places: ['module'],
    can: (app) => app.workspace.getState().selection.length > 1 || 'Select several modules.',
    run: (app) => {
      app.workspace.getState().connectFrom({ together: 'bundle' })
    },
  },
  {
    id: 'fit',
    label: 'Show the whole patch',
    group: 'Look',
    keys: ['0'],
    views: BENCH,
    places: ['chart'],
    run: (app) => {
      app.chart.fit()
    },
  },
  {
    id: 'fit-selection',
    label: 'Show what is selected',
    group: 'Look',
    keys: ['Shift+0'],
    views: BENCH,
    places: ['module'],
    can: (app) => app.workspace.getState().selection.length > 0 || 'Nothing is selected.',
    run: (app) => {
      app.chart.fit(app.workspace.getState().selection)
    },
  },
  panel('parts', 'Keep the parts open, or not'),
  panel('inspector', 'Inspector, show or hide'),
  panel('dock', 'Dock, show or hide'),
  {
    id: 'probe',
    label: 'Probe',
    group: 'Look',
    views: BENCH,
    run: (app) => {
      app.workspace.getState().showDock('probe')
    },
  },
  {
    id: 'keys',
    label: 'Keys',
    group: 'Look',
    views: BENCH,
    run: (app) => {
      app.workspace.getState().showDock('keys')
    },
  },
  {
    id: 'theme',
    label: 'Day or night',
    group: 'Page',
    run: (app) => {
      const { theme, setTheme } = app.workspace.getState()
      setTheme(isNight(theme) ? 'day' : 'night')
    },
  },
  {
    id: 'theme-system',
    label: 'Day and night as the system has it',
    group: 'Page',
    run: (app) => {
      app.workspace.getState().setTheme('system')
    },
  },
  {
    id: 'loads',
    label: 'Measure the load of every module',
    group: 'Look',
    run: (app: App) => {
      void showLoads(app, 'What the patch costs')
    },
  },
  view('bench', 'Go to the bench', '/'),
  view('guide', 'Go to the guide', '/guide'),
  view('devices', 'Go to the devices', '/devices'),
  dialog('palette', 'Find a command', 'Ctrl+P'),
  dialog('shortcuts', 'Shortcuts', '?'),
]
