/** What stands on the chart only when it is asked for: each is loaded then. */
import { marksOf } from '@ypsilon/core'
import { lazy, Suspense } from 'react'
import { useLevel, useWorkspace } from '../app/context.ts'

const SilencePanel = lazy(async () => ({ default: (await import('./silence-panel.tsx')).SilencePanel }))
const MiniMap = lazy(async () => ({ default: (await import('./mini-map.tsx')).MiniMap }))
const CardLoads = lazy(async () => ({ default: (await import('./card-loads.tsx')).CardLoads }))
const VersionMarks = lazy(async () => ({ default: (await import('./version-marks.tsx')).VersionMarks }))
const VersionPanel = lazy(async () => ({ default: (await import('./version-marks.tsx')).VersionPanel }))
const Listening = lazy(async () => ({ default: (await import('./listening.tsx')).Listening }))
const Breadcrumb = lazy(async () => ({ default: (await import('./breadcrumb.tsx')).Breadcrumb }))
const CanvasMarks = lazy(async () => ({ default: (await import('./canvas-marks.tsx')).CanvasMarks }))

/** Over the chart. */
export const OnDemand = () => {
  const isAsked = useWorkspace(({ silence }) => silence !== undefined),
    isMapShown = useWorkspace((state) => state.isMapShown),
    isInGroup = useWorkspace((state) => state.group !== undefined),
    compared = useWorkspace((state) => state.compared),
    listening = useWorkspace((state) => state.listening)
  return (
    <Suspense>
      {listening && <Listening listening={listening} />}
      {isAsked && <SilencePanel />}
      {isMapShown && <MiniMap />}
      {isInGroup && <Breadcrumb />}
      {compared && <VersionPanel compared={compared} />}
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

/** What is written at the cards: what each costs, what has become of it since a version. */
export const AtCards = () => {
  const hasLoads = useWorkspace((state) => state.hasLoads),
    compared = useWorkspace((state) => state.compared)
  return (
    <Suspense>
      {hasLoads && <CardLoads />}
      {compared && <VersionMarks compared={compared} />}
    </Suspense>
  )
}
