import { lazy, Suspense, useCallback, useContext, useEffect, useState } from 'react'
import { Outlet, useLocation, useNavigate } from 'react-router'
import { listenToDrops } from '../files/drop.ts'
import { takeIn } from '../files/take-in.ts'
import { bringProbe, loadConnectLine, loadFinder, loadModuleInspector, loadKeys } from '../bench/later.ts'
import { noteHost } from '../services/notifier.ts'
import { OVERLAYS } from '../ui/overlays.ts'
import { TipLayer } from '../ui/tooltip.tsx'
import type { App } from './app.ts'
import { Boundary } from './boundary.tsx'
import { useApp, useWorkspace } from './context.ts'
import { listenToClipboard } from './clipboard.ts'
import { listenToKeys, returnFocus } from './keys.ts'
import { OpeningWords } from './opening.tsx'
import { ReadyContext } from './ready.ts'
import { TopBar } from './top-bar/top-bar.tsx'
import { useNight } from './use-night.ts'
import { viewAt } from './views.ts'

/** Dialogs and notes are not in the way of the first sound: they come when it is quiet, or when one is asked for. */
const loadDialogs = () => import('./dialogs.tsx')
const Dialogs = lazy(async () => ({ default: (await loadDialogs()).Dialogs }))
const Notes = lazy(async () => ({ default: (await import('./notes.tsx')).Notes }))
const LATER_MS = 4000

/** Does something when the page has been there for a while. */
const useLater = (act: () => void): void => {
  useEffect(() => {
    const timer = setTimeout(() => {
      // What is loaded from here on is in nobody's way.
      performance.mark('quiet')
      act()
    }, LATER_MS)
    return () => {
      clearTimeout(timer)
    }
  }, [act])
}
const loadRest = (): void => {
  void loadDialogs()
  void loadFinder()
  void loadConnectLine()
  void loadModuleInspector()
  void loadKeys()
  bringProbe()
}

const OpenDialogs = () => {
  const isOpen = useWorkspace((state) => state.dialog !== undefined)
  useLater(loadRest)
  return isOpen ? <Dialogs /> : null
}

const LaterNotes = ({ isNight }: { readonly isNight: boolean }) => {
  const [isAsked, setAsked] = useState(false)
  const ask = useCallback(() => {
    setAsked(true)
  }, [])
  useLater(ask)
  useEffect(() => {
    noteHost.whenAsked(ask)
  }, [ask])
  return isAsked ? <Notes isNight={isNight} /> : null
}

/** Sound may start only from a gesture: any key or click starts it, and starts it again when it was held back. */
const startOnGesture = ({ engine, notifier }: App): (() => void) => {
  let told = false
  const start = (): void => {
    if (engine.isRunning) return
    engine.start().catch((error: unknown) => {
      if (told) return
      told = true
      notifier.error(`Sound could not start: ${error instanceof Error ? error.message : String(error)}`)
    })
  }
  window.addEventListener('pointerdown', start, true)
  window.addEventListener('keydown', start, true)
  return () => {
    window.removeEventListener('pointerdown', start, true)
    window.removeEventListener('keydown', start, true)
  }
}

/** Keys, gestures, drops and addresses of the page. */
const useListening = (): void => {
  const app = useApp()
  const navigate = useNavigate()
  useEffect(() => {
    app.goTo = (path) => void navigate(path)
  }, [app, navigate])
  useEffect(() => {
    const stops = [
      startOnGesture(app),
      listenToKeys(app, () => viewAt(window.location.pathname)),
      listenToClipboard(app, () => viewAt(window.location.pathname)),
      returnFocus(app),
      app.lastHand.listen(),
      listenToDrops((files) => void takeIn(app, files)),
    ]
    return () => {
      for (const stop of stops) stop()
    }
  }, [app])
}

const useReady = (): boolean => {
  const ready = useContext(ReadyContext)
  const [isReady, setReady] = useState(false)
  useEffect(() => {
    void ready.finally(() => {
      setReady(true)
    })
  }, [ready])
  return isReady
}

/** What stands around every view. */
export const Shell = () => {
  const night = useNight()
  const isReady = useReady()
  const { pathname } = useLocation()
  useListening()
  return (
    <div className="flex h-full flex-col" data-view={viewAt(pathname)}>
      <Boundary what="The top bar">
        <TopBar />
      </Boundary>
      <div className="min-h-0 flex-1">{isReady && <Outlet />}</div>
      <section id={OVERLAYS} aria-label="Menus" />
      <TipLayer />
      <OpeningWords />
      <Suspense>
        <OpenDialogs />
      </Suspense>
      <Suspense>
        <LaterNotes isNight={night} />
      </Suspense>
    </div>
  )
}
