import { useSession } from '../store/session.ts'
import { Canvas } from './canvas.tsx'
import { ConnectLine } from './connect-line.tsx'
import { Dock } from './dock.tsx'
import { Drawer } from './drawer.tsx'
import { Finder } from './finder.tsx'
import { Inspector } from './inspector.tsx'

/** The patch: parts at the left, chart in the middle, inspector at the right, dock below. */
export const Bench = () => {
  const drawer = useSession((state) => state.drawer),
    inspector = useSession((state) => state.inspector),
    dock = useSession((state) => state.dock)
  return (
    <div className="flex h-full min-h-0">
      {drawer && <Drawer />}
      <div className="flex min-w-0 flex-1 flex-col">
        <div className="flex min-h-0 flex-1">
          <div className="min-w-0 flex-1">
            <Canvas />
          </div>
          {inspector && <Inspector />}
        </div>
        {dock && <Dock />}
      </div>
      <Finder />
      <ConnectLine />
    </div>
  )
}
