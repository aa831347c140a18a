import {
  CATALOGUE,
  descriptionOf,
  type Found,
  findParts,
  labelOf,
  likelyInputs,
  mainOutput,
  type ModuleDescription,
  outputKind,
  patchIndex,
  PUBLIC_MODULES,
  splitTarget,
} from '@ypsilon/core'
import { Command } from 'cmdk'
import { type KeyboardEvent, lazy, Suspense, useRef, useState } from 'react'
import { useApp, useWorkspace } from '../app/context.ts'
import type { App } from '../app/app.ts'
import type { Finder as Place } from '../store/workspace.ts'
import { ModuleMark } from '../ui/icons.tsx'
import { useOutside } from '../ui/outside.ts'
import { addAndWire, connectPorts } from './edits.ts'

/** Loaded with the finder. */
const KeptItems = lazy(async () => ({ default: (await import('./kept-parts.tsx')).KeptItems }))

const WIDTH = 340,
  HEIGHT = 360

/** Modules that can take part in the cable that was dropped on nothing. */
const fitting = ({ from, to, into }: Pick<Place, 'from' | 'to' | 'into'>): readonly ModuleDescription[] =>
  PUBLIC_MODULES.filter(
    (module) =>
      ((from === undefined && into === undefined) || module.inputs.length > 0) &&
      ((to === undefined && into === undefined) || module.outputs.length > 0),
  )

/** Of a module that is to become another one: its family. */
const familyOf = ({ document }: App, id: string): readonly ModuleDescription[] => {
  const module = patchIndex(document.getState().patch).module.get(id)
  const family = module && descriptionOf(module)?.family
  return PUBLIC_MODULES.filter((one) => one.family === family && one.type !== module?.type)
}

/** The module becomes another one; what could not stay is said. */
const replaceBy = async (app: App, id: string, type: string): Promise<void> => {
  const { replaceModule } = await import('@ypsilon/core/patch/replace.ts')
  const { patch, change } = app.document.getState(),
    label = CATALOGUE.get(type)!.description.label
  let lost: number | undefined
  const isDone = change(`Replace ${labelOf(patch, id)} by ${label}`, (draft) => {
    lost = replaceModule(draft, id, type)
  })
  if (isDone && lost)
    app.notifier.message(`${lost} ${lost === 1 ? 'cable' : 'cables'} had no place on ${label}.`)
}

/** The output of the one selected module that a new one can be wired to. */
const offeredSource = ({ document, workspace }: App): string | undefined => {
  const { selection } = workspace.getState()
  const module =
    selection.length === 1 ? patchIndex(document.getState().patch).module.get(selection[0]!) : undefined
  const source = module && mainOutput(module)
  return module && source ? `${module.id}.${source.name}` : undefined
}

interface ItemsProps {
  readonly at: Place
  readonly text: string
  /** Wired to the selected module, with Shift. */
  readonly isWired: () => boolean
  readonly close: () => void
}

/** What was looked for and is not built yet: Enter adds what does something like it. */
const ComingItem = ({
  coming,
  add,
}: Pick<Extract<Found, { kind: 'coming' }>, 'coming'> & { readonly add: (type: string) => void }) => (
  <Command.Item
    value={`not yet ${coming.label}`}
    onSelect={() => {
      add(coming.instead[0]!)
    }}
  >
    <span className="shrink-0 font-semibold text-ink2">{coming.label}</span>
    <span className="truncate text-12 text-ink2">
      is not built yet; Enter adds {CATALOGUE.get(coming.instead[0]!)!.description.label}
    </span>
  </Command.Item>
)

const ModuleItems = ({ at, text, isWired, close }: ItemsProps) => {
  const app = useApp()
  const { from, to, into, replace } = at
  const isFree = [from, to, into, replace].every((end) => end === undefined)
  const source = isFree ? offeredSource(app) : undefined
  const place = { x: at.x, y: at.y - 13 },
    wiring = () => ({ from: from ?? (isWired() ? source : undefined), to })
  const add = (type: string): void => {
    if (replace !== undefined) void replaceBy(app, replace, type)
    else addAndWire(app, type, place, { ...wiring(), into })
    close()
  }
  return (
    <>
      {findParts(
        replace === undefined || text.trim() !== '' ? fitting(at) : familyOf(app, replace),
        text,
      ).map((found) =>
        found.kind === 'part' ? (
          <Command.Item
            key={found.part.type}
            value={found.part.type}
            onSelect={() => {
              add(found.part.type)
            }}
          >
            <ModuleMark module={found.part} />
            <span className="shrink-0 font-semibold">{found.part.label}</span>
            <span className="truncate text-12 text-ink2">{found.part.help.does}</span>
          </Command.Item>
        ) : (
          <ComingItem key={found.coming.label} coming={found.coming} add={add} />
        ),
      )}
      {replace === undefined && into === undefined && (
        <Suspense>
          <KeptItems text={text} landing={() => ({ ...place, ...wiring() })} close={close} />
        </Suspense>
      )}
      {source !== undefined && (
        <div className="px-2 py-1 text-11 text-ink2">
          Shift+Enter connects it to {labelOf(app.document.getState().patch, source.split('.')[0]!)}
        </div>
      )}
    </>
  )
}

interface InputsProps {
  readonly from: string
  readonly card: string
  readonly text: string
  readonly close: () => void
}

/** Inputs of a card a cable was dropped on, by likelihood. */
const InputItems = ({ from, card, text, close }: InputsProps) => {
  const app = useApp()
  const index = patchIndex(app.document.getState().patch)
  const module = index.module.get(card)
  const [source = '', port = ''] = splitTarget(from) ?? []
  const kind = outputKind(index.module.get(source), port)
  if (!module) return null
  return likelyInputs(kind, module)
    .filter(({ name, label }) => `${name} ${label}`.toLowerCase().includes(text.toLowerCase()))
    .map(({ name, label }) => (
      <Command.Item
        key={name}
        value={name}
        onSelect={() => {
          connectPorts(app, from, `${card}.${name}`)
          close()
        }}
      >
        <span className="font-semibold">{label}</span>
        <span className="mono ml-auto text-11 text-ink2">{name}</span>
      </Command.Item>
    ))
}

const hint = ({ from, to, card, into, replace }: Place): string =>
  replace !== undefined
    ? 'What does it become?'
    : into !== undefined
      ? 'What goes into the cable?'
      : card !== undefined
        ? 'Connect to which input?'
        : from !== undefined
          ? `Connect ${from} to …`
          : to !== undefined
            ? `What feeds ${to}?`
            : 'Name, job or family: filter, wobble, echo'

const OpenFinder = ({ at }: { readonly at: Place }) => {
  const app = useApp()
  const [text, setText] = useState('')
  const isShift = useRef(false)
  const close = (): void => {
    app.workspace.getState().openFinder(undefined)
    app.chart.focus()
  }
  const box = useOutside(close)
  const { from, card } = at
  return (
    <div
      ref={box}
      className="menu fixed p-0"
      style={{
        left: Math.max(8, Math.min(at.left, window.innerWidth - WIDTH - 8)),
        top: Math.max(8, Math.min(at.top, window.innerHeight - HEIGHT - 8)),
        width: WIDTH,
      }}
      role="dialog"
      aria-label="Find a part"
      onKeyDown={(event: KeyboardEvent) => {
        event.stopPropagation()
        if (event.key !== 'Escape') return
        event.preventDefault()
        close()
      }}
      onKeyDownCapture={(event: KeyboardEvent) => {
        isShift.current = event.shiftKey
      }}
    >
      <Command label="Find a part" loop shouldFilter={false}>
        <Command.Input
          autoFocus
          className="finder-line"
          value={text}
          onValueChange={setText}
          placeholder={hint(at)}
        />
        <Command.List className="max-h-[300px] overflow-auto p-1">
          <Command.Empty className="px-3 py-2 text-ink2">
            No part of this name. Try what it does: “slow”, “echo”, “brighter”.
          </Command.Empty>
          {card !== undefined && from !== undefined ? (
            <InputItems from={from} card={card} text={text} close={close} />
          ) : (
            <ModuleItems at={at} text={text} isWired={() => isShift.current} close={close} />
          )}
        </Command.List>
      </Command>
    </div>
  )
}

/** Type part of a name, a job or a family; Enter adds, Shift+Enter connects to what is selected as well. */
export const Finder = () => {
  const finder = useWorkspace((state) => state.finder)
  return finder ? <OpenFinder key={`${finder.left} ${finder.top}`} at={finder} /> : null
}
