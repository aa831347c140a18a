/** What stands on the chart only when it is asked for: each is loaded then. */
import { marksOf } from '@ypsilon/core'
import { lazy, Suspense } from 'react'
import { useLevel, useWorkspace } from '../app/context.ts'

const SilencePanel = lazy(async () => ({ default: (await import('./silence-panel.tsx')).SilencePanel }))
const MiniMap = lazy(async () => ({ default: (await import('./mini-map.tsx')).MiniMap }))
const CardLoads = lazy(async () => ({ default: (await import('./card-loads.tsx')).CardLoads }))
const Breadcrumb = lazy(async () => ({ default: (await import('./breadcrumb.tsx')).Breadcrumb }))
const CanvasMarks = lazy(async () => ({ default: (await import('./canvas-marks.tsx')).CanvasMarks }))

/** Over the chart. */
export const OnDemand = () => {
  const isAsked = useWorkspace(({ silence }) => silence !== undefined),
    isMapShown = useWorkspace((state) => state.isMapShown),
    isInGroup = useWorkspace((state) => state.group !== undefined)
  return (
    <Suspense>
      {isAsked && <SilencePanel />}
      {isMapShown && <MiniMap />}
      {isInGroup && <Breadcrumb />}
    </Suspense>
  )
}

/** Frames and notes. */
export const Marks = () =>
  useLevel((level) => marksOf(level).frames.length + marksOf(level).notes.length > 0) ? (
    <Suspense>
      <CanvasMarks />
    </Suspense>
  ) : null

/** What every card costs. */
export const Loads = () =>
  useWorkspace((state) => state.hasLoads) ? (
    <Suspense>
      <CardLoads />
    </Suspense>
  ) : null
