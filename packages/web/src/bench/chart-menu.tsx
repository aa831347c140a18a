/** The context menu of whatever is under the pointer or has the focus: cards, ports, rows, cables, the chart. */
import {
  cableIn,
  CATALOGUE,
  descriptionOf,
  endWords,
  faceOf,
  labelOf,
  patchIndex,
  removeCables,
  setParam,
  splitTarget,
} from '@ypsilon/core'
import { type MouseEvent, type ReactElement, useState } from 'react'
import type { App } from '../app/app.ts'
import { useApp } from '../app/context.ts'
import { commandEntry } from '../app/command-entry.ts'
import type { Place } from '../commands/command.ts'
import { MenuAt, type MenuEntry, type MenuPart } from '../ui/menu.tsx'
import { cablesFrom, cablesTo } from './cable-index.ts'
import type { PortHit } from './chart/port-finder.ts'
import { probeEntry } from './probe/menu-entry.ts'
import { usePointing } from './scene-context.ts'

/** Commands that apply at a place. */
const commandsAt = (app: App, place: Place): MenuEntry[] =>
  app.commands.at(place, 'bench').map(({ id }) => commandEntry(app, id))

const disconnecting = (app: App, ids: readonly (string | undefined)[], name: string) => (): void => {
  app.document.getState().change(name, (draft) => {
    removeCables(draft, new Set(ids.map((id) => id ?? '')))
  })
}

/** Cables of a port: each can be taken away, all of them at once, or muted. */
const cableEntries = (app: App, port: string, side: 'input' | 'output'): MenuEntry[] => {
  const { patch } = app.document.getState()
  const cables = side === 'output' ? cablesFrom(patch, port) : cablesTo(patch, port)
  const each = cables.map((cable): MenuEntry => ({
    id: cable.id ?? cable.from,
    label: `Disconnect ${endWords(app.document.getState().patch, side === 'output' ? cable.to : cable.from)}`,
    onSelect: disconnecting(app, [cable.id], 'Remove a cable'),
  }))
  if (cables.length < 2) return each
  const all: MenuEntry = {
    id: 'all',
    label: `Disconnect all ${cables.length}`,
    onSelect: disconnecting(
      app,
      cables.map(({ id }) => id),
      `Disconnect ${endWords(app.document.getState().patch, port)}`,
    ),
  }
  return [...each, all]
}

const resetEntry = (app: App, port: string): MenuEntry[] => {
  const [id = '', name = ''] = splitTarget(port) ?? []
  const module = patchIndex(app.document.getState().patch).module.get(id)
  const param = module && CATALOGUE.get(module.type)?.params.get(name)
  return param
    ? [
        {
          id: 'reset',
          label: `Reset ${param.label.toLowerCase()}`,
          onSelect: () => {
            app.document.getState().change(`Reset ${param.label.toLowerCase()}`, (draft) => {
              setParam(draft, id, name, param.default)
            })
          },
        },
      ]
    : []
}

/** A value is taken along, or given to the field, or to the same one of all that are selected. */
const valueEntries = (app: App, port: string): MenuEntry[] => {
  const [id = '', name = ''] = splitTarget(port) ?? []
  const { module: modules } = patchIndex(app.document.getState().patch),
    { copied, selection } = app.workspace.getState()
  const isParam = (module: string): boolean =>
    CATALOGUE.get(modules.get(module)?.type ?? '')?.params.has(name) ?? false
  if (!isParam(id)) return []
  const others = selection.filter(isParam)
  const paste = (targets: readonly string[]) => (): void => {
    void import('../app/values.ts').then(({ pasteValue }) => {
      pasteValue(app, targets)
    })
  }
  const pasting: MenuEntry[] = copied
    ? [
        { id: 'paste-value', label: `Paste ${copied.text}`, onSelect: paste([port]) },
        ...(others.length > 1
          ? [
              {
                id: 'paste-values',
                label: `Paste ${copied.text} on ${others.length} selected`,
                onSelect: paste(others.map((one) => `${one}.${name}`)),
              },
            ]
          : []),
      ]
    : []
  return [
    {
      id: 'copy-value',
      label: 'Copy the value',
      onSelect: () => {
        void import('../app/values.ts').then(({ copyValue }) => {
          copyValue(app, port)
        })
      },
    },
    ...pasting,
  ]
}

/** In a group: a value that is set on the group's own card as well. */
const faceEntry = (app: App, port: string): MenuEntry[] => {
  const { patch } = app.document.getState(),
    { group } = app.workspace.getState()
  const [id = '', name = ''] = splitTarget(port) ?? []
  const { module: modules } = patchIndex(patch)
  const outer = group === undefined ? undefined : modules.get(group)
  if (!outer || !CATALOGUE.get(modules.get(id)?.type ?? '')?.params.has(name)) return []
  const label = faceOf(outer).some(({ param }) => param === port) ? 'Hide it outside' : 'Show it outside'
  return [
    {
      id: 'face',
      label: `${label} on ${labelOf(patch, outer.id)}`,
      onSelect: () => {
        void import('@ypsilon/core/patch/face.ts').then(({ toggleFace }) => {
          app.document.getState().change(label, (draft) => {
            toggleFace(draft, outer.id, port)
          })
        })
      },
    },
  ]
}

/** What sets something of a device learns what that is. */
const learnEntry = (app: App, port: string): MenuEntry[] => {
  const [id = '', name = ''] = splitTarget(port) ?? []
  const module = patchIndex(app.document.getState().patch).module.get(id)
  if (!module || descriptionOf(module)?.panel !== 'device' || !/^p\d$/.test(name)) return []
  return [
    {
      id: 'learn',
      label: 'Learn from the device',
      onSelect: () => {
        const { select, learn, showPanel } = app.workspace.getState()
        select([id])
        showPanel('inspector')
        learn(port)
      },
    },
  ]
}

/** All cables of a port go to another one. */
const moveEntry = (app: App, port: string, side: 'input' | 'output'): MenuEntry[] => {
  const { patch } = app.document.getState()
  const count = (side === 'output' ? cablesFrom : cablesTo)(patch, port).length
  return count === 0
    ? []
    : [
        {
          id: 'move-all',
          label: count === 1 ? 'Move its cable' : `Move its ${count} cables`,
          aside: 'Shift+Enter',
          onSelect: () => {
            app.workspace
              .getState()
              .connectFrom({ ...(side === 'output' ? { from: port } : { to: port }), together: 'move' })
          },
        },
      ]
}

const portParts = (app: App, port: string, side: 'input' | 'output'): MenuPart[] => [
  {
    heading: endWords(app.document.getState().patch, port),
    entries: [
      {
        id: 'connect',
        label: 'Connect by typing',
        onSelect: () => {
          app.workspace.getState().connectFrom(side === 'output' ? { from: port } : { to: port })
        },
      },
      ...probeEntry(app, port, side),
      ...(side === 'output'
        ? []
        : [
            ...resetEntry(app, port),
            ...valueEntries(app, port),
            ...faceEntry(app, port),
            ...learnEntry(app, port),
          ]),
    ],
  },
  { entries: [...moveEntry(app, port, side), ...cableEntries(app, port, side)] },
]

/** Colours a cable may have instead of its kind's. */
const COLOURS: readonly (readonly [name: string, value: string | undefined])[] = [
  ['as its kind', undefined],
  ['moss', '#5B7A2C'],
  ['slate', '#5A6B8C'],
  ['ochre', '#9A7410'],
  ['rose', '#A8496E'],
]

const colourPart = (app: App, id: string): MenuPart => ({
  heading: 'Colour',
  entries: COLOURS.map(([name, value]) => ({
    id: name,
    label: name,
    onSelect: () => {
      app.document.getState().change('Colour a cable', (draft) => {
        const cable = cableIn(draft, id)
        if (!cable) return
        if (value === undefined) delete cable.color
        else cable.color = value
      })
    },
  })),
})

/** The nearest around an element that has a name of this kind. */
const named = (under: Element, name: string): string | undefined =>
  under.closest(`[data-${name}]`)?.getAttribute(`data-${name}`) ?? undefined

/** The port that is meant: by the place of the pointer, by the focus, or by the row that is under it. */
const portUnder = (
  under: Element,
  hit: PortHit | undefined,
): { readonly port: string; readonly side: 'input' | 'output' } | undefined => {
  if (hit) return { port: hit.port, side: hit.side === 'out' ? 'output' : 'input' }
  const port = under.closest<HTMLElement>('[data-port]')
  if (port?.dataset['port'] !== undefined)
    return { port: port.dataset['port'], side: port.classList.contains('source') ? 'output' : 'input' }
  const row = named(under, 'row')
  return row === undefined ? undefined : { port: row, side: 'input' }
}

const cableParts = (app: App, id: string): readonly MenuPart[] => {
  app.workspace.getState().selectCable(id)
  return [{ entries: commandsAt(app, 'cable') }, colourPart(app, id)]
}

const cardParts = (app: App, id: string): readonly MenuPart[] => {
  const { selection, select } = app.workspace.getState()
  if (!selection.includes(id)) select([id])
  return [{ heading: labelOf(app.document.getState().patch, id), entries: commandsAt(app, 'module') }]
}

/** What the menu offers for what is under the pointer; it is selected with that. */
const partsFor = (app: App, under: Element, hit: PortHit | undefined): readonly MenuPart[] => {
  const port = portUnder(under, hit)
  if (port) return portParts(app, port.port, port.side)
  const cable = named(under, 'cable') ?? named(under, 'tag')
  if (cable !== undefined) return cableParts(app, cable)
  const card = named(under, 'module') ?? named(under, 'loupe')
  return card === undefined ? [{ entries: commandsAt(app, 'chart') }] : cardParts(app, card)
}

/** Wraps the chart. */
export const ChartMenu = ({ children }: { readonly children: ReactElement }) => {
  const app = useApp()
  const pointing = usePointing()
  const [parts, setParts] = useState<readonly MenuPart[]>([])
  return (
    <MenuAt parts={parts}>
      <div
        className="h-full"
        onContextMenuCapture={(event: MouseEvent) => {
          const { pointerType } = event.nativeEvent as PointerEvent
          // The menu key has no pointer: it is about what has the focus.
          const hit = pointerType ? pointing.portAt(pointing.toFrame(event)) : undefined
          setParts(partsFor(app, event.target as Element, hit))
        }}
      >
        {children}
      </div>
    </MenuAt>
  )
}
