/** Views by their addresses; each is loaded when it is asked for. */
import { lazy, type ReactElement, Suspense } from 'react'
import { BrowserRouter, Link, Route, Routes } from 'react-router'
import { Bench } from '../bench/bench.tsx'
import { Boundary } from './boundary.tsx'
import { Shell } from './shell.tsx'

/** Each view by itself: what breaks in one leaves the others. */
const within = (what: string, view: ReactElement): ReactElement => (
  <Boundary key={what} what={what}>
    {view}
  </Boundary>
)

const Nowhere = () => (
  <main className="p-8">
    There is no page here.{' '}
    <Link className="text-accent" to="/">
      Go to the bench
    </Link>
  </main>
)

const Guide = lazy(async () => ({ default: (await import('../guide/guide.tsx')).Guide }))
const Devices = lazy(async () => ({ default: (await import('../devices/devices.tsx')).Devices }))

/**
 * The bench comes with the page; the others when they are opened. Routes are written as elements: what the router has
 * for loading data is half of it, and not needed here.
 */
export const Views = () => (
  <BrowserRouter>
    <Suspense>
      <Routes>
        <Route path="/" element={<Shell />}>
          <Route index element={within('The bench', <Bench />)} />
          <Route path="guide" element={within('The guide', <Guide />)} />
          <Route path="devices" element={within('The devices', <Devices />)} />
          <Route path="*" element={<Nowhere />} />
        </Route>
      </Routes>
    </Suspense>
  </BrowserRouter>
)
