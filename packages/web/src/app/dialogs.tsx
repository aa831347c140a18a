/** Dialogs over the page, one at a time. */
import { Command as Palette } from 'cmdk'
import { useState } from 'react'
import { type Command, type Group, keyWords } from '../commands/command.ts'
import { canRun, isIn } from '../commands/registry.ts'
import { NameForm, Window } from '../ui/dialog.tsx'
import { SearchField } from '../ui/text-field.tsx'
import { useApp, useDocument, useWorkspace } from './context.ts'
import { FindDialog } from './find-dialog.tsx'
import { KeepDialog, type KeepKind } from './keep-dialog.tsx'
import { viewAt } from './views.ts'
import { VersionsDialog } from './versions.tsx'

interface DialogProps {
  readonly onClose: () => void
}

/** Any command by name. */
const PaletteDialog = ({ onClose }: DialogProps) => {
  const app = useApp()
  const view = viewAt(window.location.pathname)
  const offered = app.commands.all.filter((command) => isIn(command, view) && command.id !== 'palette')
  return (
    <Window title="Find a command" isOpen onClose={onClose} onClosed={app.afterMenu}>
      <Palette label="Find a command" loop>
        <Palette.Input autoFocus className="search-field w-full" placeholder="What to do" />
        <Palette.List className="mt-2 max-h-80 overflow-auto">
          <Palette.Empty className="px-2 py-2 text-ink2">No command of this name.</Palette.Empty>
          {offered.map((command) => {
            const can = canRun(command, app),
              [key] = command.keys ?? []
            return (
              <Palette.Item
                key={command.id}
                value={command.label}
                keywords={[command.group]}
                disabled={can !== true}
                onSelect={() => {
                  onClose()
                  command.run(app)
                }}
              >
                <span>{command.label}</span>
                {can !== true ? (
                  <span className="ml-auto text-12 text-ink2">{can}</span>
                ) : (
                  <span className="mono ml-auto text-ink2">{key === undefined ? '' : keyWords(key)}</span>
                )}
              </Palette.Item>
            )
          })}
        </Palette.List>
      </Palette>
    </Window>
  )
}

/** What the mouse does, which no command says. */
const BY_MOUSE: readonly (readonly [keys: string, what: string])[] = [
  ['Double-click', 'On the chart: find a part'],
  ['Shift+click', 'On an output: look at it in the probe'],
  ['Shift+drag', 'On the chart: select several modules'],
  ['Drag', 'A field: change it (Shift finely, Alt in steps)'],
  ['Enter', 'In a field: type a value'],
  ['← → ↑ ↓', 'In a field: change it (Shift finely)'],
  ['A … L', 'Play; the row above has the black keys'],
]

interface Line {
  readonly keys: string
  readonly label: string
}

const linesOf = (commands: readonly Command[]): ReadonlyMap<Group | 'By hand', readonly Line[]> => {
  const groups = new Map<Group | 'By hand', Line[]>()
  for (const { group, keys, label } of commands)
    if (keys)
      groups.set(group, [...(groups.get(group) ?? []), { keys: keys.map(keyWords).join(', '), label }])
  groups.set(
    'By hand',
    BY_MOUSE.map(([keys, label]) => ({ keys, label })),
  )
  return groups
}

/** Every key there is, to be searched. */
const ShortcutsDialog = ({ onClose }: DialogProps) => {
  const app = useApp()
  const [text, setText] = useState('')
  const wanted = text.toLowerCase()
  const groups = [...linesOf(app.commands.all)].map(
    ([group, lines]) =>
      [group, lines.filter(({ keys, label }) => `${keys} ${label}`.toLowerCase().includes(wanted))] as const,
  )
  return (
    <Window title="Shortcuts" isOpen onClose={onClose} isWide onClosed={app.afterMenu}>
      <SearchField label="Search shortcuts" placeholder="Search" value={text} onChange={setText} autoFocus />
      <div
        className="mt-3 max-h-[480px] columns-2 gap-6 overflow-auto"
        tabIndex={0}
        role="group"
        aria-label="Keys"
      >
        {groups
          .filter(([, lines]) => lines.length > 0)
          .map(([group, lines]) => (
            <section key={group} className="mb-3 break-inside-avoid">
              <h3 className="panel-title mb-1">{group}</h3>
              <dl className="m-0 grid grid-cols-[112px_1fr] gap-y-1">
                {lines.flatMap(({ keys, label }) => [
                  <dt key={`${keys} keys`} className="mono">
                    {keys}
                  </dt>,
                  <dd key={keys} className="m-0">
                    {label}
                  </dd>,
                ])}
              </dl>
            </section>
          ))}
      </div>
    </Window>
  )
}

/** Gives the patch another name. */
const RenameDialog = ({ onClose }: DialogProps) => {
  const app = useApp()
  const name = useDocument((state) => state.patch.name),
    change = useDocument((state) => state.change)
  return (
    <Window title="Rename the patch" isOpen onClose={onClose} onClosed={app.afterMenu}>
      <NameForm
        label="Name of the patch"
        first={name}
        words="Rename"
        onCancel={onClose}
        onTake={(next) => {
          if (next && next !== name)
            change('Rename the patch', (draft) => {
              draft.name = next
            })
          onClose()
        }}
      />
    </Window>
  )
}

const keeping = (kind: KeepKind) => {
  const Shown = (props: DialogProps) => <KeepDialog kind={kind} {...props} />
  Shown.displayName = kind
  return Shown
}

const DIALOGS = {
  palette: PaletteDialog,
  shortcuts: ShortcutsDialog,
  rename: RenameDialog,
  versions: VersionsDialog,
  find: FindDialog,
  'keep-section': keeping('keep-section'),
  'keep-module': keeping('keep-module'),
  'keep-preset': keeping('keep-preset'),
} as const

export const Dialogs = () => {
  const dialog = useWorkspace((state) => state.dialog),
    openDialog = useWorkspace((state) => state.openDialog)
  if (dialog === undefined) return null
  const Shown = DIALOGS[dialog]
  return (
    <Shown
      onClose={() => {
        openDialog(undefined)
      }}
    />
  )
}
