/** Sections and modules of one's own, to be put into the patch. */
import { Archive, Group as GroupMark } from 'lucide-react'
import { Command } from 'cmdk'
import { useMemo } from 'react'
import { useApp, useDocuments } from '../app/context.ts'
import { type Head, insertPart, type Landing, putPartAside } from '../app/own-parts.ts'
import { IconButton } from '../ui/button.tsx'
import { Empty } from '../ui/panel.tsx'
import { KEPT } from './chart.tsx'
import { PartRow } from './part-row.tsx'

const isMeant = ({ kind, putAside, name }: Head, text: string): boolean =>
  putAside === undefined &&
  (kind === 'section' || kind === 'module') &&
  name.toLowerCase().includes(text.trim().toLowerCase())

/** What is kept and has a name with these letters, those used last first. */
const useKept = (text: string): readonly Head[] => {
  const heads = useDocuments((state) => state.heads)
  return useMemo(() => heads.filter((head) => isMeant(head, text)), [heads, text])
}

const WORDS: Readonly<Record<string, string>> = { section: 'section', module: 'module of your own' }

const KeptPart = ({ head }: { readonly head: Head }) => {
  const app = useApp()
  return (
    <PartRow
      drag={[KEPT, head.id]}
      mark={<GroupMark size={16} aria-hidden />}
      name={head.name}
      about={WORDS[head.kind]}
      onAdd={() => {
        void insertPart(app, head, app.chart.centre())
      }}
    >
      <IconButton
        isSmall
        label={`Put ${head.name} aside`}
        onClick={(event) => {
          event.stopPropagation()
          void putPartAside(app, head)
        }}
      >
        <Archive size={13} />
      </IconButton>
    </PartRow>
  )
}

/** In the drawer of parts. */
export const KeptParts = ({ text }: { readonly text: string }) => {
  const kept = useKept(text)
  if (text.trim() !== '' && kept.length === 0) return null
  return (
    <section>
      <h3 className="panel-title m-0 flex justify-between px-3 py-1.5">
        Kept
        <span className="mono font-normal text-ink2">{kept.length}</span>
      </h3>
      {kept.length === 0 ? (
        <div className="px-3 py-1">
          <Empty>
            Select modules and choose “Keep as a section”, or a group and “Keep as a module of your own”.
          </Empty>
        </div>
      ) : (
        kept.map((head) => <KeptPart key={head.id} head={head} />)
      )}
    </section>
  )
}

interface ItemsProps {
  readonly text: string
  readonly landing: () => Landing
  readonly close: () => void
}

/** In the finder. */
export const KeptItems = ({ text, landing, close }: ItemsProps) => {
  const app = useApp()
  const kept = useKept(text)
  if (text.trim() === '') return null
  return kept.map((head) => (
    <Command.Item
      key={head.id}
      value={`kept ${head.id}`}
      onSelect={() => {
        void insertPart(app, head, landing())
        close()
      }}
    >
      <GroupMark size={16} className="shrink-0" aria-hidden />
      <span className="shrink-0 font-semibold">{head.name}</span>
      <span className="truncate text-12 text-ink2">{WORDS[head.kind]}</span>
    </Command.Item>
  ))
}
