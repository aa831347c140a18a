import { ChevronDown, Play, Square } from 'lucide-react'
import { memo } from 'react'
import { Button } from '../../ui/button.tsx'
import { Menu } from '../../ui/menu.tsx'
import { TextField } from '../../ui/text-field.tsx'
import { commandEntry } from '../command-entry.ts'
import { CommandButton, CommandMark } from '../command-button.tsx'
import { useApp, useDocument, useTransport } from '../context.ts'

const SLOWEST = 20,
  FASTEST = 300

/** What was typed as a tempo; undefined when it is none. */
const tempoOf = (text: string): number | undefined => {
  const match = /^(\d+(?:[.,]\d+)?)\s*(?:bpm)?$/i.exec(text.trim())
  const tempo = match ? Number(match[1]!.replace(',', '.')) : NaN
  return tempo >= SLOWEST && tempo <= FASTEST ? tempo : undefined
}

const Tempo = () => {
  const tempo = useDocument((state) => state.patch.tempo ?? 120),
    change = useDocument((state) => state.change)
  return (
    <TextField
      label="Tempo in beats per minute"
      className="mono w-12 text-right"
      value={tempo.toFixed(1)}
      onCommit={(text) => {
        const next = tempoOf(text)
        if (next === undefined) return `The tempo goes from ${SLOWEST} to ${FASTEST} bpm.`
        change('Set the tempo', (draft) => {
          draft.tempo = next
        })
        return undefined
      }}
    />
  )
}

export const Transport = memo(() => {
  const isRunning = useTransport((state) => state.isRunning)
  return (
    <div className="flex items-center gap-1">
      <CommandMark command="transport" label={isRunning ? 'Stop the transport' : 'Start the transport'}>
        {isRunning ? <Square size={13} fill="currentColor" /> : <Play size={14} fill="currentColor" />}
      </CommandMark>
      <Tempo />
      <span className="text-ink2">bpm</span>
    </div>
  )
})

/** What lies over the document: how much, and where it may go. */
export const Moved = memo(() => {
  const app = useApp()
  const moved = useTransport((state) => state.moved)
  if (moved === 0) return null
  const entries = ['keep-as-set', 'back-to-set'].map((id) => commandEntry(app, id))
  return (
    <Menu
      parts={[{ heading: 'Moved by controls or snapshots; the patch keeps what is set', entries }]}
      onClosed={app.afterMenu}
      trigger={
        <Button look="small">
          {moved} moved
          <ChevronDown size={12} aria-hidden />
        </Button>
      }
    />
  )
})

/** Silence lasts until somebody plays; this ends it for what plays by itself. */
export const PlayOn = memo(() => {
  const isSilenced = useTransport((state) => state.isSilenced)
  return isSilenced ? <CommandButton command="play-on" look="small" /> : null
})
