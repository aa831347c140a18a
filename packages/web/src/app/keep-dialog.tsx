/** Asks under what name something is kept: a section, a module of one's own, settings. */
import { labelOf, patchIndex } from '@ypsilon/core'
import { NameForm, Window } from '../ui/dialog.tsx'
import type { App } from './app.ts'
import { useApp } from './context.ts'
import { keepModule, keepSection, keepSettings } from './own-parts.ts'

interface Keeping {
  readonly title: string
  readonly words: string
  readonly keep: (app: App, name: string) => Promise<boolean>
}

const chosen = ({ workspace }: App): string =>
  workspace.getState().selection[0] ?? workspace.getState().group ?? ''

const KEEPING = {
  'keep-section': {
    title: 'Keep as a section',
    words:
      'The selected modules with the cables between them. It is put in again from the parts, under Kept.',
    keep: keepSection,
  },
  'keep-module': {
    title: 'Keep as a module of your own',
    words:
      'The group with its ports and what it shows. If it was kept before, what is kept becomes like it; copies in patches stay as they are.',
    keep: (app: App, name: string) => keepModule(app, chosen(app), name),
  },
  'keep-preset': {
    title: 'Keep these settings',
    words: 'They are offered for every module of this type, under Start from.',
    keep: (app: App, name: string) => keepSettings(app, chosen(app), name),
  },
} as const satisfies Record<string, Keeping>

export type KeepKind = keyof typeof KEEPING

/** A name to begin with. */
const firstName = (app: App, kind: KeepKind): string => {
  const { patch } = app.document.getState(),
    id = chosen(app)
  if (kind !== 'keep-module') return kind === 'keep-preset' ? `${labelOf(patch, id)} settings` : ''
  return patchIndex(patch).module.has(id) ? labelOf(patch, id) : ''
}

export const KeepDialog = ({ kind, onClose }: { readonly kind: KeepKind; readonly onClose: () => void }) => {
  const app = useApp()
  const { title, words, keep }: Keeping = KEEPING[kind]
  return (
    <Window title={title} isOpen onClose={onClose} onClosed={app.afterMenu}>
      <p className="mb-2 text-ink2">{words}</p>
      <NameForm
        label="Name to keep it under"
        first={firstName(app, kind)}
        words="Keep"
        onCancel={onClose}
        onTake={(name) => {
          void keep(app, name)
          onClose()
        }}
      />
    </Window>
  )
}
