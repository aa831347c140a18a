import { descriptionOf, labelOf, moduleIn, type PatchModule } from '@ypsilon/core'
import { ChevronDown, ChevronUp, Power } from 'lucide-react'
import { memo } from 'react'
import { useApp, useWorkspace } from '../app/context.ts'
import { IconButton } from '../ui/button.tsx'
import { ModuleMark } from '../ui/icons.tsx'
import { TextField } from '../ui/text-field.tsx'
import { renameModule } from './edits.ts'

interface HeadProps {
  readonly module: PatchModule
  readonly hidden: number
  readonly isOpen: boolean
}

/** The name of a module; typed over with F2. */
const Name = ({ module }: { readonly module: PatchModule }) => {
  const app = useApp()
  const isRenaming = useWorkspace((state) => state.renaming === module.id)
  const label = labelOf(app.document.getState().patch, module.id)
  if (!isRenaming) return <span className="panel-title truncate">{label}</span>
  return (
    <TextField
      autoFocus
      className="nodrag font-semibold"
      label="Name"
      value={label}
      onCommit={(text) => {
        renameModule(app, module.id, text)
        return undefined
      }}
      onDone={() => {
        app.workspace.getState().rename(undefined)
      }}
    />
  )
}

const Tools = ({ module, hidden, isOpen }: HeadProps) => {
  const app = useApp()
  return (
    <span className="tools ml-auto items-center">
      {descriptionOf(module)?.bypass && (
        <IconButton
          isSmall
          className="nodrag"
          label="Bypass"
          keys="Ctrl+B"
          aria-pressed={module.bypass === true}
          onClick={() => {
            app.document
              .getState()
              .change(`Bypass ${labelOf(app.document.getState().patch, module.id)}`, (draft) => {
                const item = moduleIn(draft, module.id)
                if (item) item.bypass = !item.bypass
              })
          }}
        >
          <Power size={13} />
        </IconButton>
      )}
      {(hidden > 0 || isOpen) && (
        <IconButton
          isSmall
          className="nodrag"
          label={isOpen ? 'Fewer rows' : 'More rows'}
          tip={isOpen ? 'Show only rows in use' : `Show ${hidden} more rows`}
          aria-expanded={isOpen}
          onClick={() => {
            app.workspace.getState().toggleRows(module.id)
          }}
        >
          {isOpen ? <ChevronUp size={15} /> : <ChevronDown size={15} />}
        </IconButton>
      )}
    </span>
  )
}

/** The head of a card: it moves the card. */
export const CardHead = memo((props: HeadProps) => {
  const { module } = props
  const description = descriptionOf(module)
  return (
    <div className="head">
      {description && <ModuleMark module={description} />}
      <Name module={module} />
      <span className="kind small ml-auto truncate text-ink2">
        {module.label !== undefined ? description?.label.toLowerCase() : ''}
        {module.bypass ? ' bypassed' : ''}
      </span>
      <Tools {...props} />
    </div>
  )
})
