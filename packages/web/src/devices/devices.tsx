import { type ReactNode, useEffect, useState } from 'react'
import { useApp, useDevices } from '../app/context.ts'
import { Button } from '../ui/button.tsx'
import { Empty } from '../ui/panel.tsx'
import { Choice } from '../ui/select.tsx'
import { ControlList } from './control-list.tsx'
import { KeptList } from './kept-list.tsx'

interface PartProps {
  readonly title: string
  readonly children: ReactNode
}

const Part = ({ title, children }: PartProps) => (
  <section className="mb-6">
    <h2 className="mb-1.5 text-15 font-semibold">{title}</h2>
    {children}
  </section>
)

const LOOK_MS = 500

/** What changes by itself is looked at now and then. */
const useLooking = (): number => {
  const [now, setNow] = useState(Date.now())
  useEffect(() => {
    const timer = setInterval(() => {
      setNow(Date.now())
    }, LOOK_MS)
    return () => {
      clearInterval(timer)
    }
  }, [])
  return now
}

const STATE_WORDS = {
  off: 'not started: browsers start sound only after a key or click',
  held: 'held back by the browser: any key or click starts it',
  running: 'running',
} as const

/** The device that plays while none is chosen. */
const SYSTEM = { id: '', name: 'the one the system has chosen' }

const Line = ({ name, children }: { readonly name: string; readonly children: ReactNode }) => (
  <>
    <dt className="text-ink2">{name}</dt>
    <dd className="m-0">{children}</dd>
  </>
)

/** What sound comes out of; others can be chosen once the browser names them. */
const Device = () => {
  const { output, notifier } = useApp()
  const outputs = useDevices((state) => state.outputs),
    id = useDevices((state) => state.output)
  const attempt = (act: Promise<void>): void => {
    act.catch((error: unknown) => {
      notifier.error((error as Error).message)
    })
  }
  useEffect(() => void output.look(), [output])
  if (outputs.length === 0)
    return (
      <>
        {SYSTEM.name}{' '}
        <Button
          look="small"
          onClick={() => {
            attempt(output.ask())
          }}
        >
          Choose another
        </Button>
      </>
    )
  return (
    <Choice
      label="Device"
      value={id}
      options={[SYSTEM, ...outputs].map(({ id: value, name: label }) => ({ value, label }))}
      onChange={(value) => {
        attempt(output.choose(value))
      }}
    />
  )
}

const Sound = () => {
  const { engine, devices, notifier } = useApp()
  const sound = useDevices((state) => state.sound),
    hasInput = useDevices((state) => state.hasInput)
  useLooking()
  const context = engine.audioContext
  const openInput = async (): Promise<void> => {
    try {
      await engine.start()
      await engine.openInput()
      devices.getState().setInput(true)
      notifier.success('The audio input is open.')
    } catch (error) {
      notifier.error((error as Error).message)
    }
  }
  return (
    <Part title="Sound">
      <dl className="m-0 grid grid-cols-[140px_1fr] gap-y-1">
        <Line name="State">{STATE_WORDS[sound]}</Line>
        <Line name="Device">
          <Device />
        </Line>
        {context && (
          <>
            <Line name="Rate">
              <span className="mono">{context.sampleRate} Hz</span>
            </Line>
            <Line name="Output delay">
              <span className="mono">
                {Math.round((context.baseLatency + (context.outputLatency || 0)) * 1000)} ms
              </span>
            </Line>
          </>
        )}
        <Line name="Audio input">{hasInput ? 'open' : 'not open'}</Line>
      </dl>
      <div className="mt-2 flex gap-2">
        {sound !== 'running' && (
          <Button look="main" onClick={() => void engine.start()}>
            Start sound
          </Button>
        )}
        <Button onClick={() => void openInput()} disabled={hasInput}>
          Open the audio input
        </Button>
      </div>
    </Part>
  )
}

const agoWords = (at: number | undefined, now: number): string =>
  at === undefined ? 'nothing yet' : `${Math.max(0, Math.round((now - at) / 1000))} s ago`

const Ports = () => {
  const ports = useDevices((state) => state.ports)
  const now = useLooking()
  if (ports.length === 0)
    return <Empty>Open, but no MIDI input is connected. Plug one in; it is taken at once.</Empty>
  return (
    <table className="table">
      <thead>
        <tr>
          <th>Input</th>
          <th>State</th>
          <th>Last message</th>
          <th>When</th>
        </tr>
      </thead>
      <tbody>
        {ports.map(({ name, isConnected, at, last }) => (
          <tr key={name}>
            <td>{name}</td>
            <td>{isConnected ? 'connected' : 'unplugged'}</td>
            <td className="mono">{last ?? '–'}</td>
            <td className="mono">{agoWords(at, now)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

const MidiPart = () => {
  const { midi, devices } = useApp()
  const state = useDevices((all) => all.midi)
  const ask = async (): Promise<void> => {
    devices.getState().setMidi(await midi.open())
  }
  return (
    <Part title="MIDI">
      {state.kind === 'idle' && <Empty>Not asked yet. The browser will ask you to allow it.</Empty>}
      {state.kind === 'refused' && <p className="text-warn">{state.message}</p>}
      {state.kind === 'open' ? (
        <Ports />
      ) : (
        <Button className="mt-2" onClick={() => void ask()}>
          Ask for MIDI
        </Button>
      )}
    </Part>
  )
}

/** Audio, MIDI and what is kept: what is open, what was refused and what to do about it. */
export const Devices = () => (
  <main className="h-full overflow-auto bg-card" aria-label="Devices" tabIndex={-1}>
    <h1 className="sr-only">Devices</h1>
    <div className="mx-auto grid max-w-[1160px] grid-cols-[repeat(auto-fit,minmax(420px,1fr))] gap-x-10 px-8 py-6">
      <div>
        <Sound />
        <MidiPart />
        <Part title="Controls of this patch">
          <ControlList />
        </Part>
      </div>
      <div>
        <Part title="What is kept in this browser">
          <KeptList />
        </Part>
      </div>
    </div>
  </main>
)
