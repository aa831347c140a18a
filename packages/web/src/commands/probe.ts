/** Commands that look at signals in the probe. */
import { descriptionOf, heardAfter, patchIndex } from '@ypsilon/core'
import type { App } from '../app/app.ts'
import { cablesTo } from '../bench/cable-index.ts'
import { cableTarget, pin } from '../bench/probe/target.ts'
import { openSlots } from '../store/probe.ts'
import type { Command } from './command.ts'

const BENCH = ['bench'] as const

/** The selected module, where it is one. */
const selected = ({ document, workspace }: App): string | undefined => {
  const { selection } = workspace.getState(),
    [id] = selection
  return selection.length === 1 && patchIndex(document.getState().patch).module.has(id!) ? id : undefined
}

/** What comes to a module's sound input, as a target. */
const before = (app: App, id: string): string | undefined => {
  const { patch } = app.document.getState()
  const module = patchIndex(patch).module.get(id),
    input = module && descriptionOf(module)?.inputs.find(({ kind }) => kind === 'audio')
  const cable = input && cablesTo(patch, `${id}.${input.name}`).find(({ muted }) => muted !== true)
  return cable && (cable.id === undefined ? cable.from : cableTarget(cable.id))
}

const after = (app: App, id: string): string | undefined =>
  heardAfter(app.document.getState().patch, id)[0]?.from

export const PROBE_COMMANDS: readonly Command[] = [
  {
    id: 'probe-module',
    label: 'Look at its output in the probe',
    group: 'Look',
    views: BENCH,
    places: ['module'],
    can: (app) => {
      const id = selected(app)
      return (id !== undefined && after(app, id) !== undefined) || 'Select one module with an output.'
    },
    run: (app) => {
      pin(app, after(app, selected(app)!)!)
    },
  },
  {
    id: 'probe-before-after',
    label: 'Compare before and after it in the probe',
    group: 'Look',
    keys: ['Ctrl+Alt+B'],
    views: BENCH,
    places: ['module'],
    can: (app) => {
      const id = selected(app)
      if (id === undefined) return 'Select one module.'
      return (
        (before(app, id) !== undefined && after(app, id) !== undefined) ||
        'Select a module that a sound goes through.'
      )
    },
    run: (app) => {
      const id = selected(app)!,
        { probe } = app
      pin(app, before(app, id)!, 'A')
      pin(app, after(app, id)!, 'B')
      for (const slot of ['A', 'B'] as const) probe.getState().set(slot, { kind: 'spectrum' })
      probe.getState().compare(['A', 'B'])
    },
  },
  {
    id: 'probe-cable',
    label: 'Look at it in the probe',
    group: 'Look',
    views: BENCH,
    places: ['cable'],
    can: (app) => app.workspace.getState().cable !== undefined || 'Select a cable.',
    run: (app) => {
      pin(app, cableTarget(app.workspace.getState().cable!))
    },
  },
  {
    id: 'probe-freeze',
    label: 'Freeze the probe, or let it go on',
    group: 'Look',
    keys: ['Ctrl+Alt+Z'],
    views: BENCH,
    run: ({ probe }) => {
      const { slots, change } = probe.getState(),
        open = openSlots(slots)
      const isFrozen = !open.every((name) => slots[name].isFrozen)
      for (const name of open) change(name, { isFrozen })
    },
  },
]
