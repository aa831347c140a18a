/** Finds a module of the patch by its name, its type or its id, and goes there. */
import { descriptionOf } from '@ypsilon/core'
import { Command as List } from 'cmdk'
import { ModuleMark } from '../ui/icons.tsx'
import { Window } from '../ui/dialog.tsx'
import { useApp, useDocument } from './context.ts'

export const FindDialog = ({ onClose }: { readonly onClose: () => void }) => {
  const app = useApp()
  const modules = useDocument((state) => state.patch.modules)
  const goTo = (id: string): void => {
    onClose()
    app.workspace.getState().select([id])
    app.chart.reveal(id)
  }
  return (
    <Window title="Find in the patch" isOpen onClose={onClose} onClosed={app.afterMenu}>
      <List label="Find in the patch" loop>
        <List.Input autoFocus className="search-field w-full" placeholder="Name, type or id" />
        <List.List className="mt-2 max-h-80 overflow-auto">
          <List.Empty className="px-2 py-2 text-ink2">No module of this patch is called so.</List.Empty>
          {modules.map((module) => {
            const description = descriptionOf(module),
              type = description?.label ?? module.type
            return (
              <List.Item
                key={module.id}
                value={module.id}
                keywords={[module.label ?? '', type]}
                onSelect={() => {
                  goTo(module.id)
                }}
              >
                {description && <ModuleMark module={description} />}
                <span>{module.label ?? type}</span>
                {module.label !== undefined && <span className="text-ink2">{type.toLowerCase()}</span>}
                <span className="mono ml-auto text-ink2">{module.id}</span>
              </List.Item>
            )
          })}
        </List.List>
      </List>
    </Window>
  )
}
