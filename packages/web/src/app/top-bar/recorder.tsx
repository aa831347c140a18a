import { Circle, Square } from 'lucide-react'
import { memo, useEffect, useState } from 'react'
import type { Head } from '../../kept/records.ts'
import { takesOf } from '../../store/takes.ts'
import { Button, IconButton } from '../../ui/button.tsx'
import { Empty } from '../../ui/panel.tsx'
import { Sheet } from '../../ui/popover.tsx'
import { CommandMark } from '../command-button.tsx'
import { useApp, useDocuments, useTakes } from '../context.ts'

const TakeRow = ({ head }: { readonly head: Head }) => {
  const exportTake = useTakes((state) => state.exportTake),
    remove = useTakes((state) => state.remove)
  return (
    <li className="flex items-center gap-2 py-1">
      <span className="min-w-0 flex-1 truncate">{head.name}</span>
      <span className="mono text-ink2">{(head.seconds ?? 0).toFixed(1)} s</span>
      <Button
        look="small"
        aria-label={`${head.name} as a WAV file`}
        onClick={() => {
          void exportTake(head)
        }}
      >
        WAV
      </Button>
      <Button
        look="small"
        aria-label={`Put ${head.name} aside`}
        onClick={() => {
          void remove(head)
        }}
      >
        Put aside
      </Button>
    </li>
  )
}

const LOOK_MS = 250

/** How long it has been recording. */
const Elapsed = ({ since }: { readonly since: number }) => {
  const { clock } = useApp()
  const [now, setNow] = useState(clock.now())
  useEffect(() => {
    const timer = setInterval(() => {
      setNow(clock.now())
    }, LOOK_MS)
    return () => {
      clearInterval(timer)
    }
  }, [clock])
  return <span className="mono text-warn">{Math.max(0, (now - since) / 1000).toFixed(0)} s</span>
}

/** Records the output; what was recorded is in the list beside it. */
export const Recorder = memo(() => {
  const app = useApp()
  const isRecording = useTakes((state) => state.isRecording),
    since = useTakes((state) => state.since)
  const heads = useDocuments((state) => state.heads)
  const takes = takesOf(heads)
  return (
    <div className="flex items-center text-warn">
      <CommandMark
        command="record"
        label={isRecording ? 'Stop recording' : 'Record the output'}
        isPressed={isRecording}
      >
        {isRecording ? (
          <Square size={15} fill="currentColor" />
        ) : (
          <Circle size={17} fill="currentColor" strokeWidth={1} />
        )}
      </CommandMark>
      {isRecording && <Elapsed since={since} />}
      <Sheet
        label="Takes"
        onClosed={app.afterMenu}
        trigger={
          <IconButton label={`${takes.length} takes`} tip="Takes" className="mono text-ink">
            {takes.length}
          </IconButton>
        }
      >
        <h2 className="panel-title mb-1">Takes</h2>
        {takes.length === 0 ? (
          <Empty>Press record, play, press it again: the take appears here.</Empty>
        ) : (
          <ul className="m-0 max-h-80 list-none overflow-auto p-0">
            {takes.map((head) => (
              <TakeRow key={head.id} head={head} />
            ))}
          </ul>
        )}
      </Sheet>
    </div>
  )
})
