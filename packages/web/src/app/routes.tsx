/** Views by their addresses; each is loaded when it is asked for. */
import type { ReactElement } from 'react'
import { createBrowserRouter, Link } from 'react-router'
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

/** The bench comes with the page; the others when they are opened. */
export const createRouter = () =>
  createBrowserRouter([
    {
      path: '/',
      element: <Shell />,
      children: [
        { index: true, element: within('The bench', <Bench />) },
        {
          path: 'guide',
          lazy: async () => {
            const { Guide } = await import('../guide/guide.tsx')
            return { element: within('The guide', <Guide />) }
          },
        },
        {
          path: 'devices',
          lazy: async () => {
            const { Devices } = await import('../devices/devices.tsx')
            return { element: within('The devices', <Devices />) }
          },
        },
        { path: '*', element: <Nowhere /> },
      ],
    },
  ])
