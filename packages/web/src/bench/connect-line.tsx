import { Command } from 'cmdk'
import { useState } from 'react'
import type { App } from '../app/app.ts'
import { useApp, useLevel, useWorkspace } from '../app/context.ts'
import { PortMark } from '../ui/icons.tsx'
import { useOutside } from '../ui/outside.ts'
import { Fault } from '../ui/text-field.tsx'
import { type End, inputsOf, outputsOf, ranked, readConnection } from './connection-text.ts'
import { connectOutputs, connectPorts, moveAllCables } from './edits.ts'
import type { Connecting } from '../store/workspace.ts'
import { outputsOfSelected } from './connecting.ts'
import { readAmount } from './fields/amount-field.tsx'

const SHOWN = 40

interface LineProps {
  /** The end that is given already. */
  readonly given: Connecting
}

const spoken = (target: string): string => target.replace('.', ' ')

/** Takes a line: the ends it may mean, and what is wrong with its amount. */
const useLine = (line: string, { to, together }: Connecting) => {
  const patch = useLevel((level) => level)
  const read = readConnection(line)
  if (together !== undefined) {
    const ends = together === 'move' && to === undefined ? outputsOf(patch) : inputsOf(patch)
    return { patch, read, source: undefined, shown: ranked(ends, line), isTarget: true }
  }
  const sources = ranked(outputsOf(patch), read.from)
  const targets = read.to === undefined ? [] : ranked(inputsOf(patch), read.to)
  // With an input given only its source is asked for.
  const isTarget = to === undefined && read.to !== undefined
  return { patch, read, source: sources[0], shown: isTarget ? targets : sources, isTarget }
}

const nothingWords = (isTarget: boolean, source: End | undefined): string => {
  if (!isTarget) return 'No output begins like this.'
  return source ? 'No input begins like this.' : 'There is no such output before the >.'
}

interface EndsProps {
  readonly shown: readonly End[]
  /** What is said when there is none. */
  readonly nothing: string
  readonly onChoose: (end: End) => void
}

const Ends = ({ shown, nothing, onChoose }: EndsProps) => (
  <Command.List className="max-h-[260px] overflow-auto p-1">
    <Command.Empty className="px-3 py-2 text-ink2">{nothing}</Command.Empty>
    {shown.slice(0, SHOWN).map((end) => (
      <Command.Item
        key={end.target}
        value={end.target}
        onSelect={() => {
          onChoose(end)
        }}
      >
        <PortMark kind={end.kind} filled />
        <span>{end.text}</span>
        <span className="mono ml-auto text-11 text-ink2">{end.target}</span>
      </Command.Item>
    ))}
  </Command.List>
)

/** What the line asks for. */
const questionOf = ({ from, to, together }: Connecting): string => {
  if (together === 'bundle') return 'To which input, and those after it?'
  if (together === 'move') return `Move all cables of ${spoken(from ?? to ?? '')} where?`
  return to === undefined ? 'osc saw > filter in * 0.5' : `What feeds ${spoken(to)}?`
}

/** Several cables at once: all of a port to another one, or outputs of all that are selected to an input. */
const layTogether = (app: App, { from, to, together }: Connecting, end: string): void => {
  if (together === 'bundle') connectOutputs(app, outputsOfSelected(app), end)
  else if (from !== undefined) moveAllCables(app, from, end, 'from')
  else if (to !== undefined) moveAllCables(app, to, end, 'to')
}

const OpenLine = ({ given }: LineProps) => {
  const app = useApp()
  const isWhole = given.together !== undefined
  const [line, setLine] = useState(given.from === undefined || isWhole ? '' : `${spoken(given.from)} > `)
  const [fault, setFault] = useState<string | undefined>(undefined)
  const { patch, read, source, shown, isTarget } = useLine(line, given)
  const close = (): void => {
    app.workspace.getState().connectFrom(undefined)
    app.chart.focus()
  }
  const connect = (from: string, to: string): void => {
    const amount = read.amount === undefined ? undefined : readAmount(patch, to, read.amount)
    if (amount && !amount.ok) {
      setFault(`* ${read.amount}: ${amount.message}`)
      return
    }
    connectPorts(app, from, to, amount?.value)
    close()
  }
  const choose = (end: End): void => {
    if (given.together !== undefined) {
      layTogether(app, given, end.target)
      close()
    } else if (given.to !== undefined) connect(end.target, given.to)
    else if (!isTarget) setLine(`${spoken(end.target)} > `)
    else if (source) connect(source.target, end.target)
  }
  const box = useOutside(close)
  return (
    <div
      ref={box}
      className="menu fixed left-1/2 top-16 w-[420px] -translate-x-1/2 p-0"
      role="dialog"
      aria-label="Connect by typing"
      onKeyDown={(event) => {
        event.stopPropagation()
        if (event.key !== 'Escape') return
        event.preventDefault()
        close()
      }}
    >
      <Command label="Connect by typing" shouldFilter={false} loop>
        <Command.Input
          autoFocus
          className="finder-line mono"
          placeholder={questionOf(given)}
          value={line}
          onValueChange={(text) => {
            setLine(text)
            setFault(undefined)
          }}
        />
        {fault !== undefined && <Fault words={fault} />}
        <Ends shown={shown} nothing={nothingWords(isTarget, source)} onChoose={choose} />
      </Command>
    </div>
  )
}

/** Connects by typing, with completion from the patch itself. */
export const ConnectLine = () => {
  const connecting = useWorkspace((state) => state.connecting)
  return connecting ? <OpenLine given={connecting} /> : null
}
