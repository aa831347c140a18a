import { descriptionOf, isSignalParam, type Patch } from '@ypsilon/core'
import { Command } from 'cmdk'
import { useState } from 'react'
import { useDocument } from '../store/document.ts'
import { useSession } from '../store/session.ts'
import { PortMark } from '../ui/icons.tsx'
import { connectPorts, labelOf } from './commands.ts'
import { setAmount } from './cables.tsx'

interface End {
  readonly target: string
  readonly text: string
  readonly kind: 'audio' | 'control' | 'pitch' | 'gate'
}

const outputsOf = (patch: Patch): End[] =>
  patch.modules.flatMap((module) =>
    (descriptionOf(module)?.outputs ?? []).map((port) => ({
      target: `${module.id}.${port.name}`,
      text: `${labelOf(patch, module.id)} ${port.name}`,
      kind: port.kind,
    })),
  )

const inputsOf = (patch: Patch): End[] =>
  patch.modules.flatMap((module): End[] => {
    const description = descriptionOf(module)
    return [
      ...(description?.inputs ?? []).map((port) => ({
        target: `${module.id}.${port.name}`,
        text: `${labelOf(patch, module.id)} ${port.name}`,
        kind: port.kind,
      })),
      ...(description?.params ?? []).filter(isSignalParam).map((param) => ({
        target: `${module.id}.${param.name}`,
        text: `${labelOf(patch, module.id)} ${param.name}`,
        kind: 'control' as const,
      })),
    ]
  })

/** `osc saw > filter in * 0.5`: what stands before `>`, after it, and the amount. */
export const readConnection = (
  line: string,
): { readonly from: string; readonly to: string | undefined; readonly amount: number | undefined } => {
  const [from = '', rest] = line.split('>')
  const [to, amount] = (rest ?? '').split('*')
  const number =
    amount === undefined || amount.trim() === '' ? undefined : Number(amount.trim().replace(',', '.'))
  return {
    from: from.trim(),
    to: rest === undefined ? undefined : (to ?? '').trim(),
    amount: number !== undefined && Number.isFinite(number) ? number : undefined,
  }
}

const words = (text: string): string[] =>
  text
    .toLowerCase()
    .split(/[\s.]+/)
    .filter(Boolean)
/** Every typed word begins a word of the end's id or label, in order. */
const fits = (end: End, typed: string): boolean => {
  const names = [...words(end.target), ...words(end.text)]
  return words(typed).every((word) => names.some((name) => name.startsWith(word)))
}
/** Exact names first: "osc saw" is osc.saw, whatever else begins like it. */
const ranked = (ends: readonly End[], typed: string): End[] => {
  const exact = words(typed).join('.')
  return ends
    .filter((end) => fits(end, typed))
    .sort((a, b) => Number(b.target.toLowerCase() === exact) - Number(a.target.toLowerCase() === exact))
}

/** Connects by typing, with completion from the patch itself. */
export const ConnectLine = () => {
  const open = useSession((state) => state.connecting)
  const patch = useDocument((state) => state.patch)
  const [line, setLine] = useState('')
  if (!open) return null
  const close = (): void => {
    setLine('')
    useSession.getState().set({ connecting: false })
  }
  const { from, to, amount } = readConnection(line)
  const sources = ranked(outputsOf(patch), from),
    source = sources[0]
  const targets = to === undefined ? [] : ranked(inputsOf(patch), to)
  const choose = (end: End): void => {
    if (to === undefined) {
      setLine(`${end.target.replace('.', ' ')} > `)
      return
    }
    if (!source) return
    connectPorts(source.target, end.target)
    const cable = useDocument
      .getState()
      .patch.cables.find((item) => item.from === source.target && item.to === end.target)
    if (amount !== undefined && cable?.id !== undefined) setAmount(cable.id, amount, `typed-${cable.id}`)
    close()
  }
  const shown = to === undefined ? sources : targets
  return (
    <div
      className="menu fixed left-1/2 top-16 w-[420px] -translate-x-1/2 !p-0"
      role="dialog"
      aria-label="Connect by typing"
      onKeyDown={(event) => {
        event.stopPropagation()
        if (event.key === 'Escape') close()
      }}
    >
      <Command label="Connect by typing" shouldFilter={false} loop>
        <Command.Input
          autoFocus
          className="mono w-full border-0 border-b border-rule bg-transparent px-3 py-2 outline-none"
          placeholder="osc saw > filter in * 0.5"
          value={line}
          onValueChange={setLine}
          onBlur={() => {
            setTimeout(close, 150)
          }}
        />
        <Command.List className="max-h-[260px] overflow-auto p-1">
          <Command.Empty className="px-3 py-2 text-ink2">
            {to === undefined
              ? 'No output begins like this.'
              : source
                ? 'No input begins like this.'
                : 'There is no such output before the >.'}
          </Command.Empty>
          {shown.slice(0, 40).map((end) => (
            <Command.Item
              key={end.target}
              value={end.target}
              onSelect={() => {
                choose(end)
              }}
            >
              <PortMark kind={end.kind} filled />
              <span>{end.text}</span>
              <span className="mono ml-auto text-[11px] text-ink2">{end.target}</span>
            </Command.Item>
          ))}
        </Command.List>
      </Command>
    </div>
  )
}
