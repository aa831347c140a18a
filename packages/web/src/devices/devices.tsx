import { type Controller, noteName, type Patch, patchIndex, splitTarget, targetOf } from '@ypsilon/core'
import { useEffect, useState } from 'react'
import { toast } from 'sonner'
import { engine } from '../audio/engine-client.ts'
import { openMidi } from '../audio/midi.ts'
import { labelOf } from '../bench/commands.ts'
import { useDocument } from '../store/document.ts'
import { useSession } from '../store/session.ts'

const Panel = ({ title, children }: { title: string; children: React.ReactNode }) => (
  <section className="mb-6 max-w-[620px]">
    <h2 className="mb-1.5 text-[15px] font-semibold">{title}</h2>
    {children}
  </section>
)

/** How often what controls say is looked at. */
const LOOK_MS = 250

const KINDS: ReadonlyMap<string, string> = new Map([
  ['control', 'Control'],
  ['pressure', 'Pressure'],
  ['bend', 'Bend'],
  ['slide', 'Slide'],
  ['note', 'Key'],
  ['program', 'Program'],
])

/** What a map listens to, in words. */
const sourceWords = ({ source, controller, channel: plain }: Controller): string => {
  const kind = source?.kind ?? 'control',
    number = source?.number ?? controller,
    channel = source?.channel ?? plain ?? 0
  return [
    KINDS.get(kind),
    number === undefined ? 'any' : kind === 'note' ? noteName(number) : String(number),
    ...(channel === 0 ? [] : [`channel ${channel}`]),
    ...(source?.device === undefined || source.device === 'any' ? [] : [source.device]),
  ].join(' ')
}

/** What a target is called. */
const targetWords = (patch: Patch, target: string): string => {
  if (target.startsWith('macro:')) return patchIndex(patch).macro.get(target.slice(6))?.name ?? target
  if (target.startsWith('cable:')) {
    const cable = patchIndex(patch).cable.get(target.slice(6))
    const ends = [cable?.from, cable?.to].map((end) => labelOf(patch, splitTarget(end ?? '')?.[0] ?? ''))
    return `amount of ${ends.join(' to ')}`
  }
  const found = targetOf(patch, target)
  return found.kind === 'param'
    ? `${labelOf(patch, found.module.id)} ${found.param.label.toLowerCase()}`
    : target
}

/** The maps of the patch on the bench, where each control stands, and which of them wait to meet their target. */
const ControlList = () => {
  const patch = useDocument((state) => state.patch)
  const [states, setStates] = useState(engine.controllers())
  useEffect(() => {
    const timer = setInterval(() => {
      setStates(engine.controllers())
    }, LOOK_MS)
    return () => {
      clearInterval(timer)
    }
  }, [])
  const controllers = patch.controllers ?? []
  if (controllers.length === 0) return <p>The patch on the bench maps no controls.</p>
  return (
    <table className="w-full text-left">
      <thead>
        <tr className="text-ink2">
          <th className="py-1 font-normal">Control</th>
          <th className="py-1 font-normal">Moves</th>
          <th className="py-1 font-normal">Stands at</th>
          <th className="py-1 font-normal" />
        </tr>
      </thead>
      <tbody>
        {controllers.map((controller, index) => {
          const state = states.find((item) => item.index === index)
          return (
            <tr key={index} className="border-t border-rule">
              <td className="py-1">{sourceWords(controller)}</td>
              <td className="py-1">{targetWords(patch, controller.target)}</td>
              <td className="mono py-1">
                {state?.position === undefined ? '–' : `${Math.round(state.position * 100)} %`}
              </td>
              <td className="py-1 text-ink2">{state && !state.taken ? 'waits to meet its target' : ''}</td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}

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
        <Panel title="Controls of this patch">
          <ControlList />
        </Panel>
      </div>
    </main>
  )
}
