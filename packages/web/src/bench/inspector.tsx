import { patchIndex } from '@ypsilon/core'
import { CommandButton } from '../app/command-button.tsx'
import { useDocument, useWorkspace } from '../app/context.ts'
import { Section } from '../ui/panel.tsx'
import { CableRow } from './cable-row.tsx'
import { lazy, Suspense } from 'react'
import { loadModuleInspector } from './later.ts'
import { PatchInspector } from './patch-inspector.tsx'

const ModuleInspector = lazy(async () => ({ default: (await loadModuleInspector()).ModuleInspector }))

const Several = lazy(async () => ({ default: (await import('./several.tsx')).Several }))

/** What is shown at the right: the selected module, cable or the patch itself. */
const Shown = () => {
  const patch = useDocument((state) => state.patch)
  const selection = useWorkspace((state) => state.selection),
    cableId = useWorkspace((state) => state.cable),
    group = useWorkspace((state) => state.group)
  const index = patchIndex(patch)
  const cable = cableId === undefined ? undefined : index.cable.get(cableId)
  if (cable)
    return (
      <Section title="Cable">
        <ul className="m-0 list-none p-0">
          <CableRow cable={cable} patch={patch} toward="both" />
        </ul>
        <p className="mb-2 mt-1 text-12 text-ink2">
          The amount multiplies the signal, in the unit of what it moves. Press it to type.
        </p>
        <div className="flex flex-wrap gap-2">
          <CommandButton command="mute-cable" look="small" words={cable.muted ? 'Let it through' : 'Mute'} />
          <CommandButton command="cable-source" look="small" words="Where it begins" />
          <CommandButton command="cable-target" look="small" words="Where it ends" />
        </div>
      </Section>
    )
  if (selection.length > 1)
    return (
      <Suspense>
        <Several key={selection.join()} ids={selection} />
      </Suspense>
    )
  // In a group, with nothing selected, it is about the group.
  const module = index.module.get(selection.length === 1 ? selection[0]! : (group ?? ''))
  return module ? (
    <Suspense>
      <ModuleInspector key={module.id} module={module} patch={patch} />
    </Suspense>
  ) : (
    <PatchInspector patch={patch} />
  )
}

export const Inspector = () => (
  <aside className="h-full overflow-auto border-l border-rule bg-card" aria-label="Inspector">
    <Shown />
  </aside>
)
