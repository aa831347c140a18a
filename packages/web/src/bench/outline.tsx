/** The patch as a tree, in which everything can be done by keyboard: go to it, set it, connect it, take it away. */
import { type KeyboardEvent, memo, useEffect, useMemo, useRef, useState } from 'react'
import { commandEntry } from '../app/command-entry.ts'
import { CommandButton } from '../app/command-button.tsx'
import { useApp, useDocument, useWorkspace } from '../app/context.ts'
import { goToMark, goToModule, showModule } from '../app/level.ts'
import { DrawerPin } from './drawer-pin.tsx'
import { MenuAt } from '../ui/menu.tsx'
import { Empty } from '../ui/panel.tsx'
import { TextField } from '../ui/text-field.tsx'
import { commitRow, enter, remove } from './outline-acts.ts'
import { EMPTY, type OutlineRow, outlineRows, rowAround } from './outline-rows.ts'

interface LineProps {
  readonly row: OutlineRow
  readonly isActive: boolean
  readonly isSelected: boolean
  readonly isTyping: boolean
  readonly onFocus: (row: OutlineRow) => void
  readonly onToggle: (row: OutlineRow) => void
  readonly onTyped: () => void
}

/** What stands behind the label may take what room there is. */
const isLong = ({ kind }: OutlineRow): boolean => kind === 'data' || kind === 'mark'
const isInWords = ({ kind }: OutlineRow): boolean => kind === 'module' || kind === 'mark'

const isChosen = (row: OutlineRow, selection: readonly string[], mark: string | undefined): boolean => {
  if (row.kind === 'mark') return row.mark === mark
  return row.kind === 'module' && selection.includes(row.module)
}

const Line = memo(({ row, isActive, isSelected, isTyping, onFocus, onToggle, onTyped }: LineProps) => {
  const app = useApp()
  return (
    <div
      role="treeitem"
      className="outline-row"
      data-kind={row.kind}
      data-key={row.key}
      aria-level={row.depth}
      aria-expanded={row.isExpanded}
      aria-selected={isSelected}
      tabIndex={isActive ? 0 : -1}
      style={{ paddingLeft: 8 + 14 * (row.depth - 1) }}
      onFocus={(event) => {
        if (event.target === event.currentTarget) onFocus(row)
      }}
      onDoubleClick={() => {
        onToggle(row)
      }}
    >
      {row.isExpanded !== undefined && (
        <span
          className="outline-fold"
          aria-hidden="true"
          onClick={() => {
            onToggle(row)
          }}
        >
          {row.isExpanded ? '–' : '+'}
        </span>
      )}
      <span className={isLong(row) ? 'shrink-0' : 'truncate'}>{row.label}</span>{' '}
      {isTyping ? (
        <span className={`ml-auto ${isLong(row) ? 'min-w-0 flex-1' : 'w-20'}`}>
          <TextField
            autoFocus
            className="mono text-right"
            label={`${row.label}, value`}
            value={row.kind === 'data' && row.aside === EMPTY ? '' : row.aside.replace('−', '-')}
            onCommit={(text) => commitRow(app, row, text)}
            onDone={onTyped}
          />
        </span>
      ) : (
        <span
          className={`ml-auto truncate pl-2 text-ink2 ${isLong(row) ? 'min-w-0' : 'shrink-0'} ${isInWords(row) ? '' : 'mono'}`}
        >
          {row.aside}
        </span>
      )}
      {(row.kind === 'input' || row.kind === 'output') && <span className="sr-only">, {row.kind}</span>}
    </div>
  )
})

const MOVES: ReadonlyMap<string, (at: number, count: number) => number> = new Map([
  ['ArrowDown', (at: number, count: number) => Math.min(count - 1, at + 1)],
  ['ArrowUp', (at: number) => Math.max(0, at - 1)],
  ['Home', () => 0],
  ['End', (_: number, count: number) => count - 1],
])

/** State of the tree: what is open, where the keyboard is, what is typed. */
const useTree = () => {
  const app = useApp()
  const patch = useDocument((state) => state.patch),
    [expanded, setExpanded] = useState<ReadonlySet<string>>(new Set()),
    [active, setActive] = useState(''),
    [typing, setTyping] = useState('')
  const rows = useMemo(() => outlineRows(patch, expanded), [patch, expanded])
  const at = Math.max(
    0,
    rows.findIndex(({ key }) => key === active),
  )
  const toggle = (row: OutlineRow): void => {
    if (row.kind !== 'module') return
    const next = new Set(expanded)
    if (!next.delete(row.module)) next.add(row.module)
    setExpanded(next)
  }
  /** Right opens and goes in, left closes and goes out. */
  const sideways = (key: string): number => {
    const row = rows[at]!
    if (key === 'ArrowRight') {
      if (row.isExpanded === false) toggle(row)
      return row.isExpanded === true ? Math.min(rows.length - 1, at + 1) : at
    }
    if (row.isExpanded === true) {
      toggle(row)
      return at
    }
    return Math.max(0, rowAround(rows, at))
  }
  return { app, rows, at, active, setActive, typing, setTyping, toggle, sideways }
}

/** Keys of the tree; those of commands go on to the page, with the module of the row selected. */
const useTreeKeys =
  ({ app, rows, at, setActive, setTyping, toggle, sideways }: ReturnType<typeof useTree>) =>
  (event: KeyboardEvent): void => {
    const row = rows[at]
    if (!row || event.ctrlKey || event.metaKey || event.altKey || event.target instanceof HTMLInputElement)
      return
    const move = MOVES.get(event.key)
    if (move) setActive(rows[move(at, rows.length)]!.key)
    else if (event.key === 'ArrowRight' || event.key === 'ArrowLeft')
      setActive(rows[sideways(event.key)]!.key)
    else if (event.key === 'Enter') {
      if (
        enter(app, row, () => {
          toggle(row)
        })
      )
        setTyping(row.key)
    } else if (event.key === 'Delete' || event.key === 'Backspace') remove(app, row)
    else return
    event.preventDefault()
    event.stopPropagation()
  }

const Head = () => (
  <div className="flex items-center gap-1.5 p-2">
    <h2 className="panel-title mr-auto">Outline</h2>
    <CommandButton command="find-part" words="Add" look="small" />
    <CommandButton command="connect" words="Connect" look="small" />
    <DrawerPin what="outline" />
  </div>
)

/** The keyboard's focus follows the row, while it is in the tree. */
const useFollowedRow = ({ rows, at, active, typing }: ReturnType<typeof useTree>) => {
  const box = useRef<HTMLDivElement>(null),
    wasTyping = useRef(false)
  useEffect(() => {
    if (typing !== '' || !(wasTyping.current || box.current?.contains(document.activeElement))) return
    wasTyping.current = false
    box.current
      ?.querySelector<HTMLElement>('[role="treeitem"][tabindex="0"]')
      ?.focus({ preventScroll: false })
  }, [active, at, typing, rows])
  return { box, wasTyping }
}

export const Outline = () => {
  const tree = useTree(),
    { app, rows, at, setActive, typing, setTyping, toggle } = tree
  const selection = useWorkspace((state) => state.selection),
    mark = useWorkspace((state) => state.mark)
  const { box, wasTyping } = useFollowedRow(tree)
  const onKeyDown = useTreeKeys(tree)
  const onFocus = (row: OutlineRow): void => {
    setActive(row.key)
    if (row.kind === 'cable') {
      showModule(app, row.module)
      app.workspace.getState().selectCable(row.cable.id)
    } else if (row.kind === 'mark') goToMark(app, row.module === '' ? undefined : row.module, row.mark)
    else goToModule(app, row.module)
  }
  return (
    <nav className="flex h-full flex-col overflow-hidden bg-card" aria-label="Outline">
      <Head />
      <MenuAt
        parts={[{ entries: app.commands.at('module', 'bench').map(({ id }) => commandEntry(app, id)) }]}
      >
        <div
          ref={box}
          role="tree"
          aria-label="Modules, cables, frames and notes of the patch"
          className="nokey min-h-0 flex-1 overflow-auto pb-3"
          onKeyDown={onKeyDown}
        >
          {rows.length === 0 && (
            <div className="px-3 py-2">
              <Empty>The bench is empty. Add a part with /.</Empty>
            </div>
          )}
          {rows.map((row, index) => (
            <Line
              key={row.key}
              row={row}
              isActive={index === at}
              isSelected={isChosen(row, selection, mark)}
              isTyping={typing === row.key}
              onFocus={onFocus}
              onToggle={toggle}
              onTyped={() => {
                wasTyping.current = true
                setTyping('')
              }}
            />
          ))}
        </div>
      </MenuAt>
    </nav>
  )
}
