import { useState } from 'react'
import { toast } from 'sonner'
import { engine } from '../audio/engine-client.ts'
import { openMidi } from '../audio/midi.ts'
import { useSession } from '../store/session.ts'

const Panel = ({ title, children }: { title: string; children: React.ReactNode }) => (
  <section className="mb-6 max-w-[620px]">
    <h2 className="mb-1.5 text-[15px] font-semibold">{title}</h2>
    {children}
  </section>
)

/** Audio and MIDI: what is open, what was refused and what to do about it. */
export const Devices = () => {
  const midi = useSession((state) => state.midi),
    set = useSession((state) => state.set)
  const [, again] = useState(0)
  const context = engine.audioContext
  return (
    <main className="h-full overflow-auto bg-card">
      <div className="px-8 py-6">
        <Panel title="Sound">
          {context ? (
            <p>
              Running at <span className="mono">{context.sampleRate} Hz</span>, output delay{' '}
              <span className="mono">
                {Math.round((context.baseLatency + (context.outputLatency || 0)) * 1000)} ms
              </span>
              .
            </p>
          ) : (
            <p>Not started. Browsers start sound only after a key or click.</p>
          )}
          <div className="mt-2 flex gap-2">
            <button
              type="button"
              className="btn main"
              onClick={() => {
                void engine.start().then(() => {
                  again((n) => n + 1)
                })
              }}
            >
              {context ? 'Resume sound' : 'Start sound'}
            </button>
            <button
              type="button"
              className="btn"
              onClick={() => {
                void engine
                  .start()
                  .then(() => engine.openInput())
                  .then(() => {
                    toast.success('The audio input is open.')
                  })
                  .catch((error: Error) => {
                    toast.error(error.message)
                  })
              }}
            >
              Open the audio input
            </button>
          </div>
        </Panel>
        <Panel title="MIDI">
          {midi.kind === 'idle' && <p>Not asked yet. The browser will ask you to allow it.</p>}
          {midi.kind === 'refused' && <p className="text-warn">{midi.message}</p>}
          {midi.kind === 'open' &&
            (midi.inputs.length === 0 ? (
              <p>Open, but no MIDI input is connected. Plug one in; it is taken at once.</p>
            ) : (
              <ul>
                {midi.inputs.map((name) => (
                  <li key={name}>{name}</li>
                ))}
              </ul>
            ))}
          <button
            type="button"
            className="btn mt-2"
            onClick={() => {
              void openMidi((state) => {
                set({ midi: state })
              })
            }}
          >
            Ask for MIDI
          </button>
        </Panel>
      </div>
    </main>
  )
}
