import { lazy, Suspense } from 'react'
import { useApp, useWorkspace } from '../app/context.ts'
import { SIZES } from '../store/sizes.ts'
import { isShown, type Sized } from '../store/workspace.ts'
import { Edge, Pane, Panes } from '../ui/panel.tsx'
import { Chart } from './chart.tsx'
import { Dock } from './dock.tsx'
import { useDocked } from './dock-tab.ts'
import { Inspector } from './inspector.tsx'
import { loadConnectLine, loadFinder } from './later.ts'
import { Drawer, Parts, Rail } from './parts.tsx'

/** Loaded when it is quiet, or when they are first asked for. */
const Finder = lazy(async () => ({ default: (await loadFinder()).Finder }))
const Outline = lazy(async () => ({ default: (await import('./outline.tsx')).Outline }))
const ConnectLine = lazy(async () => ({ default: (await loadConnectLine()).ConnectLine }))

const Lines = () => {
  const isFinding = useWorkspace((state) => state.finder !== undefined),
    isConnecting = useWorkspace((state) => state.connecting !== undefined)
  return (
    <Suspense>
      {isFinding && <Finder />}
      {isConnecting && <ConnectLine />}
    </Suspense>
  )
}

/** The remembered size of a panel; it is read when the panel comes, and noted when it changes. */
const useSize = (panel: Sized) => {
  const { workspace } = useApp()
  const [least, , most] = SIZES[panel]
  return {
    size: { now: workspace.getState().sizes[panel], least, most },
    onSize: (pixels: number) => {
      workspace.getState().setSize(panel, pixels)
    },
  }
}

/** Its own component: what is selected and drawn in it makes nothing beside it render. */
const DockPane = () => {
  const docked = useDocked(),
    dock = useSize(docked.size)
  return (
    <Pane id="dock" {...dock}>
      <Dock {...docked} />
    </Pane>
  )
}

/** Chart and inspector beside one another, the dock under both. */
const Middle = () => {
  const hasInspector = useWorkspace((state) => isShown(state, 'inspector')),
    hasDock = useWorkspace((state) => isShown(state, 'dock'))
  const inspector = useSize('inspector')
  return (
    <Panes direction="vertical">
      <Pane id="work">
        <Panes direction="horizontal">
          <Pane id="chart">
            <Chart />
          </Pane>
          {hasInspector && (
            <>
              <Edge label="Width of the inspector" />
              <Pane id="inspector" {...inspector}>
                <Inspector />
              </Pane>
            </>
          )}
        </Panes>
      </Pane>
      {hasDock && (
        <>
          <Edge label="Height of the dock" />
          <DockPane />
        </>
      )}
    </Panes>
  )
}

/** The patch: parts at the left, chart in the middle, inspector at the right, dock below. */
export const Bench = () => {
  const isPinned = useWorkspace((state) => state.panels.parts),
    family = useWorkspace((state) => state.drawer ?? 'all')
  const parts = useSize('parts')
  return (
    <main className="h-full min-h-0" aria-label="Bench">
      <h1 className="sr-only">Bench</h1>
      <div className="flex h-full min-h-0">
        <Rail />
        <div className="relative min-w-0 flex-1">
          <Panes direction="horizontal">
            {isPinned && (
              <>
                <Pane id="parts" {...parts}>
                  {family === 'outline' ? (
                    <Suspense>
                      <Outline />
                    </Suspense>
                  ) : (
                    <Parts family={family} />
                  )}
                </Pane>
                <Edge label="Width of the parts" />
              </>
            )}
            <Pane id="middle">
              <Middle />
            </Pane>
          </Panes>
          <Drawer />
        </div>
      </div>
      <Lines />
    </main>
  )
}
