import { StrictMode, useEffect, useState } from 'react'
import { createRoot } from 'react-dom/client'
import { createBrowserRouter, Outlet } from 'react-router'
import { RouterProvider } from 'react-router/dom'
import { toast, Toaster } from 'sonner'
import { faultText } from '@ypsilon/core'
import { engine } from './audio/engine-client.ts'
import { Boundary } from './boundary.tsx'
import { useFileDrop } from './files/drop.ts'
import { OpeningWords } from './opening.tsx'
import { renderOffline } from './audio/offline.ts'
import { Bench } from './bench/bench.tsx'
import { forgetColours } from './bench/live.ts'
import { useShortcuts } from './bench/shortcuts.ts'
import { Devices } from './devices/devices.tsx'
import { Guide } from './guide/guide.tsx'
import { ShortcutSheet } from './shortcut-sheet.tsx'
import { restore, useDocument } from './store/document.ts'
import { followMoves } from './store/moved.ts'
import { isNight, type Theme, useSession } from './store/session.ts'
import { DEMOS, TopBar } from './topbar.tsx'
import './styles.css'

const applyTheme = (theme: Theme): void => {
  document.documentElement.dataset['theme'] = isNight(theme) ? 'night' : 'day'
  forgetColours()
}

/** Sound may start only from a gesture: the first key or click does it, without anybody being asked. */
const useFirstGesture = (): void => {
  useEffect(() => {
    const start = (): void => {
      engine.start().then(
        () => {
          useSession.getState().set({ soundOn: true })
        },
        (error: unknown) => {
          toast.error(`Sound could not start: ${error instanceof Error ? error.message : String(error)}`)
        },
      )
    }
    window.addEventListener('pointerdown', start, { once: true })
    window.addEventListener('keydown', start, { once: true })
    return () => {
      window.removeEventListener('pointerdown', start)
      window.removeEventListener('keydown', start)
    }
  }, [])
}

/** The sound thread stopped answering. */
const sayStall = (kind: 'anew' | 'held'): void => {
  const name = useDocument.getState().patch.name
  if (kind === 'anew') {
    toast.warning('The sound stopped answering and was begun anew, with the patch as it stands.', {
      duration: 12000,
    })
    return
  }
  toast.error(`${name} stops the sound each time it is played. It is held silent until you change it.`, {
    description: 'Undo the last step or bypass what you changed last.',
    action: {
      label: 'Play it again',
      onClick: () => {
        engine.playHeld()
      },
    },
    duration: 60000,
  })
}

const SoundHint = () => {
  const on = useSession((state) => state.soundOn)
  return on ? null : (
    <div
      className="pointer-events-none fixed bottom-3 left-1/2 z-30 -translate-x-1/2 rounded-[3px] border border-rule bg-card px-3 py-1.5 text-[12.5px]"
      role="status"
    >
      Sound starts with your first click or key.
    </div>
  )
}

const Shell = () => {
  const theme = useSession((state) => state.theme)
  const night = isNight(theme)
  const [ready, setReady] = useState(false)
  useEffect(() => {
    applyTheme(theme)
  }, [theme])
  useEffect(() => {
    engine.onFaults = (faults) => {
      toast.error(faults.map(faultText).join('\n'))
    }
    engine.onStall = sayStall
    const unfollow = followMoves()
    void restore()
      .then((found) => found || useDocument.getState().open(DEMOS[0]!))
      .finally(() => {
        setReady(true)
      })
    return unfollow
  }, [])
  useShortcuts()
  useFirstGesture()
  useFileDrop()
  return (
    <div className="flex h-full flex-col">
      <Boundary what="The top bar">
        <TopBar />
      </Boundary>
      <div className="min-h-0 flex-1">{ready && <Outlet />}</div>
      <OpeningWords />
      <ShortcutSheet />
      <SoundHint />
      <Toaster
        theme={night ? 'dark' : 'light'}
        position="bottom-right"
        toastOptions={{ style: { borderRadius: 3, fontFamily: 'inherit', whiteSpace: 'pre-line' } }}
      />
    </div>
  )
}

/** Each view by itself: what breaks in one leaves the others. */
const within = (what: string, view: React.ReactElement): React.ReactElement => (
  <Boundary key={what} what={what}>
    {view}
  </Boundary>
)

const router = createBrowserRouter([
  {
    path: '/',
    element: <Shell />,
    children: [
      { index: true, element: within('The bench', <Bench />) },
      { path: 'guide', element: within('The guide', <Guide />) },
      { path: 'devices', element: within('The devices', <Devices />) },
      {
        path: '*',
        element: (
          <main className="p-8">
            There is no page here.{' '}
            <a className="text-accent" href="/">
              Go to the bench
            </a>
          </main>
        ),
      },
    ],
  },
])

/** For scripts in the console and for tests: renders a patch text offline; left and right samples. */
Object.assign(window, {
  ypsilon: {
    renderOffline: async (text: string, play: string, seconds: number) =>
      (await renderOffline(text, play, seconds)).sound.channels.map((channel) => [...channel]),
  },
})

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <Boundary what="The page">
      <RouterProvider router={router} />
    </Boundary>
  </StrictMode>,
)
