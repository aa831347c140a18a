import { memo, useEffect, useState } from 'react'
import { CommandButton } from '../command-button.tsx'
import { useDocument } from '../context.ts'

const LOOK_MS = 5000
const JUST_NOW = 8,
  MINUTE = 90

const agoWords = (seconds: number): string =>
  seconds < JUST_NOW
    ? 'kept just now'
    : seconds < MINUTE
      ? `kept ${seconds} s ago`
      : `kept ${Math.round(seconds / 60)} min ago`

/** How the patch is kept, under its name. */
export const SavedWords = memo(() => {
  const saved = useDocument((state) => state.saved),
    isReading = useDocument((state) => state.isReading)
  const [now, setNow] = useState(0)
  useEffect(() => {
    const look = (): void => {
      setNow(Date.now())
    }
    look()
    const timer = setInterval(look, LOOK_MS)
    return () => {
      clearInterval(timer)
    }
  }, [saved])
  if (isReading) return <span>open in another tab, reading only</span>
  switch (saved.kind) {
    case 'failed':
      return (
        <span className="text-warn" role="alert">
          not kept: {saved.message}
        </span>
      )
    case 'keeping':
      return <span>keeping …</span>
    case 'new':
      return <span>not changed yet</span>
    case 'kept':
      return <span>{agoWords(Math.max(0, Math.round((now - saved.at) / 1000)))}</span>
  }
})

/** What can be done about a patch that is not kept, or that another tab works on. */
export const SavedButtons = memo(() => {
  const isFailed = useDocument((state) => state.saved.kind === 'failed'),
    isReading = useDocument((state) => state.isReading)
  if (isReading) return <CommandButton command="work-here" look="small" />
  return isFailed ? <CommandButton command="export" look="small" words="Export now" /> : null
})
