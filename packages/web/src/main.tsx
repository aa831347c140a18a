import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { Boundary } from './app/boundary.tsx'
import { AppContext } from './app/context.ts'
import { createApp } from './app/create.ts'
import { ReadyContext } from './app/ready.ts'
import { Views } from './app/routes.tsx'
import { renderOffline } from './audio/offline.ts'
import './styles.css'

const { app, ready } = createApp()

/** For scripts in the console and for tests: renders a patch text offline; left and right samples. */
Object.assign(window, {
  ypsilon: {
    renderOffline: async (text: string, play: string, seconds: number) =>
      (await renderOffline(text, play, seconds)).sound.channels.map((channel) => [...channel]),
  },
})

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <AppContext value={app}>
      <ReadyContext value={ready}>
        <Boundary what="The page">
          <Views />
        </Boundary>
      </ReadyContext>
    </AppContext>
  </StrictMode>,
)
