/** Finds a module of the patch by its name, its type or its id, and goes there. */
import { descriptionOf, groupsAround, labelOf, patchIndex } from '@ypsilon/core'
import { Command as List } from 'cmdk'
import { ModuleMark } from '../ui/icons.tsx'
import { Window } from '../ui/dialog.tsx'
import { useApp, useDocument } from './context.ts'
import { goToModule } from './level.ts'

export const FindDialog = ({ onClose }: { readonly onClose: () => void }) => {
  const app = useApp()
  const patch = useDocument((state) => state.patch),
    { modules } = patchIndex(patch)
  const goTo = (id: string): void => {
    onClose()
    goToModule(app, id)
  }
  return (
    <Window title="Find in the patch" isOpen onClose={onClose} onClosed={app.afterMenu}>
      <List label="Find in the patch" loop>
        <List.Input autoFocus className="search-field w-full" placeholder="Name, type or id" />
        <List.List className="mt-2 max-h-80 overflow-auto">
          <List.Empty className="px-2 py-2 text-ink2">No module of this patch is called so.</List.Empty>
          {modules.map(({ module }) => {
            const description = descriptionOf(module),
              type = description?.label ?? module.type,
              around = groupsAround(patch, module.id)
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
                <span>{labelOf(patch, module.id)}</span>
                {module.label !== undefined && <span className="text-ink2">{type.toLowerCase()}</span>}
                {around.length > 0 && (
                  <span className="truncate text-ink2">
                    in {around.map((group) => labelOf(patch, group)).join(' › ')}
                  </span>
                )}
                <span className="mono ml-auto text-ink2">{module.id}</span>
              </List.Item>
            )
          })}
        </List.List>
      </List>
    </Window>
  )
}
