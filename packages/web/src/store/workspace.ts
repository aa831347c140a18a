/** How this tab looks at the work: selection, panels, what is open over the bench. Nothing of it is in the patch. */
import { SIZES } from './sizes.ts'
import type { Silence } from '@ypsilon/core'
import { createStore, type StoreApi } from 'zustand'
import type { Notebook } from '../kept/database.ts'
import type {
  Compared,
  Connecting,
  Copied,
  CopiedSettings,
  Dialog,
  DockTab,
  Drawer,
  Finder,
  Listening,
  Panel,
  Sized,
  Theme,
} from './workspace-types.ts'

export type * from './workspace-types.ts'

/** What is remembered from visit to visit. */
interface Remembered {
  readonly theme: Theme
  /** What is open; of the parts: what is kept open. */
  readonly panels: Readonly<Record<Panel, boolean>>
  /** Sizes in pixels. */
  readonly sizes: Readonly<Record<Sized, number>>
  readonly dockTab: DockTab
}

export interface WorkspaceState extends Remembered {
  /** Panels that have made room for a large patch. */
  readonly folded: readonly Panel[]
  /** Selected modules, or one cable. */
  readonly selection: readonly string[]
  readonly cable: string | undefined
  /** The selected frame or note. */
  readonly mark: string | undefined
  readonly isMapShown: boolean
  /** Why nothing is heard, while that is asked. */
  readonly silence: Silence | 'listening' | undefined
  readonly finder: Finder | undefined
  /** A value, and settings, taken along to others. */
  readonly copied: Copied | undefined
  readonly settings: CopiedSettings | undefined
  /** What every card costs is written on it. */
  readonly hasLoads: boolean
  readonly listening: Listening | undefined
  /** The module that is in focus with what it is connected to. */
  readonly focus: string | undefined
  /** The version that the patch is compared with, on the chart. */
  readonly compared: Compared | undefined
  /** The group that is opened: what the chart shows stands in it. */
  readonly group: string | undefined
  /** Cards that show all their rows. */
  readonly open: ReadonlySet<string>
  readonly dialog: Dialog | undefined
  /** The line for connecting by typing is open, with one end given or none. */
  readonly connecting: Connecting | undefined
  /** The module whose name is being typed. */
  readonly renaming: string | undefined
  /** The row that takes the next of a device's own controls that is moved, `echo.p3`. */
  readonly learning: string | undefined
  /** What the drawer of parts shows: a family, or all of them to be searched; undefined while it is closed. */
  readonly drawer: Drawer | undefined
  select(ids: readonly string[]): void
  selectCable(id: string | undefined): void
  selectMark(id: string | undefined): void
  showMap(isShown: boolean): void
  showSilence(silence: WorkspaceState['silence']): void
  setTheme(theme: Theme): void
  togglePanel(panel: Panel): void
  /** Opens it, folded or not. */
  showPanel(panel: Panel): void
  /** Inspector and dock make room for a large patch, or stand again as they were. */
  fold(folded: readonly Panel[]): void
  setSize(panel: Sized, pixels: number): void
  showDock(tab: DockTab): void
  openFinder(finder: Finder | undefined): void
  openDialog(dialog: Dialog | undefined): void
  connectFrom(ends: Connecting | undefined): void
  rename(id: string | undefined): void
  learn(row: string | undefined): void
  openDrawer(drawer: Drawer | undefined): void
  toggleRows(id: string): void
  copy(copied: Copied): void
  copySettings(settings: CopiedSettings): void
  showLoads(hasLoads: boolean): void
  compare(compared: Compared | undefined): void
  focusOn(id: string | undefined): void
  listen(listening: Listening | undefined): void
  /** Opens a group, or goes back to the bench itself. */
  openGroup(id: string | undefined): void
  /** Another patch is on the bench: what was selected and pinned is not in it. */
  begin(): void
}
export type WorkspaceStore = StoreApi<WorkspaceState>

const KEY = 'ypsilon-workspace'
const DEFAULTS: Remembered = {
  theme: 'system',
  panels: { parts: false, inspector: true, dock: true },
  sizes: {
    parts: SIZES.parts[1],
    inspector: SIZES.inspector[1],
    dock: SIZES.dock[1],
    editor: SIZES.editor[1],
  },
  dockTab: 'probe',
}

const remembered = (notebook: Notebook): Remembered => {
  try {
    const found = JSON.parse(notebook.read(KEY) ?? '{}') as Partial<Remembered>
    return {
      ...DEFAULTS,
      ...found,
      panels: { ...DEFAULTS.panels, ...found.panels },
      sizes: { ...DEFAULTS.sizes, ...found.sizes },
    }
  } catch {
    return DEFAULTS
  }
}

/** What a workspace begins with. */
const FRESH = {
  folded: [],
  selection: [],
  cable: undefined,
  mark: undefined,
  isMapShown: false,
  silence: undefined,
  finder: undefined,
  copied: undefined,
  settings: undefined,
  hasLoads: false,
  compared: undefined,
  focus: undefined,
  listening: undefined,
  group: undefined,
  open: new Set<string>(),
  dialog: undefined,
  connecting: undefined,
  renaming: undefined,
  learning: undefined,
  drawer: undefined,
} as const

type Get = () => WorkspaceState
type SetState = (state: Partial<WorkspaceState>) => void

const panelActions = (set: SetState, get: Get) => ({
  setTheme(theme: Theme) {
    set({ theme })
  },
  togglePanel(panel: Panel) {
    if (isShown(get(), panel)) set({ panels: { ...get().panels, [panel]: false } })
    // What is folded and closed is shown by one press all the same.
    else get().showPanel(panel)
  },
  fold(folded: readonly Panel[]) {
    set({ folded })
  },
  setSize(panel: Sized, pixels: number) {
    const [least, , most] = SIZES[panel],
      { sizes } = get(),
      size = Math.min(most, Math.max(least, Math.round(pixels)))
    if (size !== sizes[panel]) set({ sizes: { ...sizes, [panel]: size } })
  },
  showPanel(panel: Panel) {
    const { panels, folded } = get()
    set({ panels: { ...panels, [panel]: true }, folded: folded.filter((other) => other !== panel) })
  },
  showDock(dockTab: DockTab) {
    get().showPanel('dock')
    set({ dockTab })
  },
})

const handActions = (set: SetState) => ({
  learn(learning: string | undefined) {
    set({ learning })
  },
  rename(renaming: string | undefined) {
    set({ renaming })
  },
  connectFrom(connecting: WorkspaceState['connecting']) {
    set({ connecting })
  },
  copy(copied: Copied) {
    set({ copied })
  },
  copySettings(settings: CopiedSettings) {
    set({ settings })
  },
  showLoads(hasLoads: boolean) {
    set({ hasLoads })
  },
  compare(compared: Compared | undefined) {
    set({ compared })
  },
  focusOn(focus: string | undefined) {
    set({ focus })
  },
  listen(listening: Listening | undefined) {
    set({ listening })
  },
})

const benchActions = (set: SetState, get: Get) => ({
  select(ids: readonly string[]) {
    const { selection, cable, mark } = get()
    if (ids.length > 0 || selection.length > 0 || cable !== undefined || mark !== undefined)
      set({ selection: ids, cable: undefined, mark: undefined })
  },
  selectCable(id: string | undefined) {
    set({ cable: id, selection: [], mark: undefined })
  },
  selectMark(id: string | undefined) {
    set({ mark: id, selection: [], cable: undefined })
  },
  showMap(isMapShown: boolean) {
    set({ isMapShown })
  },
  showSilence(silence: WorkspaceState['silence']) {
    set({ silence })
  },
  openFinder(finder: Finder | undefined) {
    set({ finder })
  },
  openDialog(dialog: Dialog | undefined) {
    set({ dialog })
  },
  openDrawer(drawer: WorkspaceState['drawer']) {
    set({ drawer })
  },
  toggleRows(id: string) {
    const open = new Set(get().open)
    if (!open.delete(id)) open.add(id)
    set({ open })
  },
  openGroup(group: string | undefined) {
    if (group !== get().group)
      set({ group, focus: undefined, selection: [], cable: undefined, mark: undefined, renaming: undefined })
  },
  begin() {
    set({
      group: undefined,
      compared: undefined,
      focus: undefined,
      listening: undefined,
      open: new Set(),
      selection: [],
      cable: undefined,
      mark: undefined,
      isMapShown: false,
      silence: undefined,
      renaming: undefined,
      learning: undefined,
    })
  },
})

/** Is a panel on the page? */
export const isShown = ({ panels, folded }: WorkspaceState, panel: Panel): boolean =>
  panels[panel] && !folded.includes(panel)

export const createWorkspaceStore = (notebook: Notebook): WorkspaceStore => {
  const store: WorkspaceStore = createStore<WorkspaceState>()((set, get) => ({
    ...remembered(notebook),
    ...FRESH,
    ...panelActions(set, get),
    ...handActions(set),
    ...benchActions(set, get),
  }))
  store.subscribe(({ theme, panels, sizes, dockTab }, before) => {
    const isSame =
      theme === before.theme &&
      panels === before.panels &&
      sizes === before.sizes &&
      dockTab === before.dockTab
    if (!isSame) notebook.write(KEY, JSON.stringify({ theme, panels, sizes, dockTab } satisfies Remembered))
  })
  return store
}
