import { ChevronDown } from 'lucide-react'
import { memo, useEffect, useRef } from 'react'
import { NEW_MENU, PATCH_MENU } from '../../commands/patch.ts'
import { ACCEPTED, takeIn } from '../../files/take-in.ts'
import { latestPatches } from '../../store/documents.ts'
import { Menu, type MenuPart } from '../../ui/menu.tsx'
import { commandEntry } from '../command-entry.ts'
import { useApp, useDocument, useDocuments } from '../context.ts'
import { SavedButtons, SavedWords } from './saved.tsx'

const LATEST = 10
const MINUTE = 60_000,
  HOUR = 60 * MINUTE,
  DAY = 24 * HOUR

/** When something was, as short as it can be said. */
const when = (at: number, now: number): string => {
  const ago = Math.max(0, now - at)
  if (ago < HOUR) return `${Math.max(1, Math.round(ago / MINUTE))} min`
  if (ago < DAY) return `${Math.round(ago / HOUR)} h`
  return new Date(at).toLocaleDateString(undefined, { day: 'numeric', month: 'short' })
}

/** The always present way in for files. */
const FileInput = () => {
  const app = useApp()
  const input = useRef<HTMLInputElement>(null)
  useEffect(() => {
    app.chooseFiles = () => input.current?.click()
  }, [app])
  return (
    <input
      ref={input}
      type="file"
      hidden
      multiple
      accept={ACCEPTED}
      data-import=""
      aria-label="Files to open"
      onChange={(event) => {
        void takeIn(app, [...(event.target.files ?? [])])
        event.target.value = ''
      }}
    />
  )
}

/** The patch on the bench: its name, how it is kept, and every other one. */
export const PatchMenu = memo(() => {
  const app = useApp()
  const name = useDocument((state) => state.patch.name),
    id = useDocument((state) => state.id)
  const heads = useDocuments((state) => state.heads)
  const now = Date.now()
  const parts: readonly MenuPart[] = [
    ...[NEW_MENU, PATCH_MENU].map((ids) => ({
      entries: ids.map((command) => commandEntry(app, command)),
    })),
    {
      heading: 'Latest',
      entries: latestPatches(heads, LATEST + 1)
        .filter((head) => head.id !== id)
        .slice(0, LATEST)
        .map((head) => ({
          id: head.id,
          label: head.name,
          aside: when(head.used, now),
          onSelect: () => {
            void app.desk.openDocument(head.id)
          },
        })),
    },
    {
      heading: 'From Marram Point',
      entries: app.demos.map((demo) => ({
        id: demo.name,
        label: demo.name,
        aside: demo.tag,
        onSelect: () => {
          void app.desk.openDemo(demo)
        },
      })),
    },
  ]
  return (
    <>
      {/* Stands before everything else that takes files. */}
      <FileInput />
      <div className="patch-box">
        <Menu
          parts={parts}
          onClosed={app.afterMenu}
          trigger={
            <button type="button" className="patch-name" aria-label={`Patch ${name}`}>
              <span className="truncate">{name}</span>
              <ChevronDown size={13} aria-hidden className="shrink-0" />
            </button>
          }
        />
        <p className="m-0 truncate text-11 leading-4 text-ink2">
          <SavedWords />
        </p>
      </div>
      <SavedButtons />
    </>
  )
})
