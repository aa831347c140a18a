import { CATALOGUE, likelyInputs, type ModuleDescription, PUBLIC_MODULES, splitTarget } from '@ypsilon/core'
import { Command, defaultFilter } from 'cmdk'
import { useEffect, useRef } from 'react'
import { useDocument } from '../store/document.ts'
import { useSession } from '../store/session.ts'
import { ModuleMark } from '../ui/icons.tsx'
import { addAndWire, connectPorts, labelOf } from './commands.ts'

const WIDTH = 320,
  HEIGHT = 340

/** Modules that can take part in the cable that was dropped on nothing. */
const fitting = (from: string | undefined, to: string | undefined): readonly ModuleDescription[] =>
  PUBLIC_MODULES.filter(
    (module) =>
      (from === undefined || module.inputs.length > 0) && (to === undefined || module.outputs.length > 0),
  )

const ModuleItems = ({
  from,
  to,
  at,
  close,
}: {
  from: string | undefined
  to: string | undefined
  at: { x: number; y: number }
  close: () => void
}) => {
  const selection = useSession.getState().selection
  const { patch } = useDocument.getState()
  // Without a dropped cable the finder offers to wire the new module to the selected one.
  const selected =
    from === undefined && to === undefined && selection.length === 1
      ? patch.modules.find((module) => module.id === selection[0])
      : undefined
  const main = selected && CATALOGUE.get(selected.type)?.description
  const source = main?.outputs.find((port) => main.front?.includes(port.name)) ?? main?.outputs[0]
  const add = (module: ModuleDescription, wired: boolean): void => {
    const offered = wired && selected && source ? `${selected.id}.${source.name}` : undefined
    addAndWire(module.type, at.x, at.y - 13, { from: from ?? offered, to })
    close()
  }
  return (
    <>
      <Command.Group>
        {fitting(from, to).map((module) => (
          <Command.Item
            key={module.type}
            value={module.type}
            keywords={[module.label, ...module.words, module.family, module.help.does]}
            onSelect={() => {
              add(module, false)
            }}
          >
            <ModuleMark module={module} />
            <span className="font-semibold">{module.label}</span>
            <span className="truncate text-[12px] text-ink2">{module.help.does}</span>
          </Command.Item>
        ))}
      </Command.Group>
      {selected && source && (
        <Command.Group
          heading={
            <span className="px-2 text-[11px] text-ink2">After {labelOf(patch, selected.id)}, connected</span>
          }
        >
          {fitting('x', undefined).map((module) => (
            <Command.Item
              key={module.type}
              value={`after ${module.type}`}
              keywords={[module.label, 'connect', ...module.words]}
              onSelect={() => {
                add(module, true)
              }}
            >
              <ModuleMark module={module} />
              <span>{module.label}</span>
              <span className="mono ml-auto text-[11px] text-ink2">{source.name} →</span>
            </Command.Item>
          ))}
        </Command.Group>
      )}
    </>
  )
}

/** Inputs of a card a cable was dropped on, by likelihood. */
const InputItems = ({ from, card, close }: { from: string; card: string; close: () => void }) => {
  const { patch } = useDocument.getState()
  const module = patch.modules.find((item) => item.id === card)
  const [source = '', port = ''] = splitTarget(from) ?? []
  const kind =
    CATALOGUE.get(patch.modules.find((item) => item.id === source)?.type ?? '')?.outputs.get(port)?.kind ??
    'control'
  if (!module) return null
  return likelyInputs(kind, module).map(({ name, label }) => (
    <Command.Item
      key={name}
      value={name}
      keywords={[label]}
      onSelect={() => {
        connectPorts(from, `${card}.${name}`)
        close()
      }}
    >
      <span className="font-semibold">{label}</span>
      <span className="mono ml-auto text-[11px] text-ink2">{name}</span>
    </Command.Item>
  ))
}

/** A part by itself comes before the same part already wired: Enter never connects by surprise. */
const plainFirst = (value: string, search: string, keywords?: string[]): number =>
  defaultFilter(value, search, keywords) * (value.startsWith('after ') ? 0.2 : 1)

/** Type part of a name, a job or a family; Enter adds. */
export const Finder = () => {
  const finder = useSession((state) => state.finder)
  const box = useRef<HTMLDivElement>(null)
  const close = (): void => {
    useSession.getState().set({ finder: undefined })
  }
  useEffect(() => {
    if (!finder) return undefined
    const outside = (event: PointerEvent): void => {
      if (!box.current?.contains(event.target as Element)) close()
    }
    window.addEventListener('pointerdown', outside, true)
    return () => {
      window.removeEventListener('pointerdown', outside, true)
    }
  }, [finder])
  if (!finder) return null
  const left = Math.min(finder.left, window.innerWidth - WIDTH - 8),
    top = Math.min(finder.top, window.innerHeight - HEIGHT - 8)
  return (
    <div
      ref={box}
      className="menu fixed !p-0"
      style={{ left, top, width: WIDTH }}
      role="dialog"
      aria-label="Find a part"
      onKeyDown={(event) => {
        event.stopPropagation()
        if (event.key === 'Escape') close()
      }}
    >
      <Command label="Find a part" loop filter={plainFirst}>
        <Command.Input
          autoFocus
          className="w-full border-0 border-b border-rule bg-transparent px-3 py-2 outline-none"
          placeholder={
            finder.card !== undefined
              ? 'Connect to which input?'
              : finder.from !== undefined
                ? `Connect ${finder.from} to …`
                : 'Name, job or family: filter, wobble, echo'
          }
        />
        <Command.List className="max-h-[290px] overflow-auto p-1">
          <Command.Empty className="px-3 py-2 text-ink2">
            No part of this name. Try what it does: “slow”, “echo”, “brighter”.
          </Command.Empty>
          {finder.card !== undefined && finder.from !== undefined ? (
            <InputItems from={finder.from} card={finder.card} close={close} />
          ) : (
            <ModuleItems from={finder.from} to={finder.to} at={finder} close={close} />
          )}
        </Command.List>
      </Command>
    </div>
  )
}
