import {
  adviseOn,
  descriptionOf,
  isFormula,
  labelOf,
  type ModuleDescription,
  own,
  type Patch,
  type PatchModule,
  STRUCTURE,
  usedRows,
} from '@ypsilon/core'
import { type ComponentType, lazy, Suspense, useEffect, useMemo, useState } from 'react'
import { useApp, useLevel, useWorkspace } from '../app/context.ts'
import { isShown } from '../store/workspace.ts'
import { ModuleMark } from '../ui/icons.tsx'
import { Section } from '../ui/panel.tsx'
import { CableRow } from './cable-row.tsx'
import { ParamOf } from './card-rows.tsx'
import { DataFields } from './data-fields.tsx'
import { useDocked } from './dock-tab.ts'
import { EditorOf, hasEditor } from './editors/registry.tsx'
import { useHelp } from './helps.ts'
import { Presets } from './presets.tsx'
import { Remedies } from './remedies.tsx'
import { LivePicture } from './live-picture.tsx'

type Panel = NonNullable<ModuleDescription['panel']>

/** Parts of their own, by the names descriptions give them; loaded with the first module that has one. */
const PANELS: Readonly<Record<Panel, ComponentType<{ readonly module: PatchModule }>>> = {
  device: lazy(() => import('./device-panel.tsx').then(({ DevicePanel }) => ({ default: DevicePanel }))),
  group: lazy(() => import('./group-panel.tsx').then(({ GroupPanel }) => ({ default: GroupPanel }))),
}

const OwnPanel = ({ module, panel }: { readonly module: PatchModule; readonly panel: Panel }) => {
  const Shown = PANELS[panel]
  return (
    <Suspense fallback={null}>
      <Shown module={module} />
    </Suspense>
  )
}

/** Groups and their ports have no settings of their own. */
const STRUCTURAL: ReadonlySet<string> = new Set(STRUCTURE.map(({ type }) => type))

interface InspectorProps {
  readonly module: PatchModule
  readonly patch: Patch
}

interface KnownProps extends InspectorProps {
  readonly description: ModuleDescription
}

const Head = ({ module, patch, description }: KnownProps) => (
  <header className="flex h-9 items-center gap-2 border-b border-rule px-3">
    <ModuleMark module={description} />
    <h2 className="panel-title truncate">{labelOf(patch, module.id)}</h2>
    <span className="truncate text-ink2">
      {module.label !== undefined ? description.label.toLowerCase() : ''}
    </span>
    <span className="mono ml-auto text-ink2">{module.id}</span>
  </header>
)

const Help = ({ type }: { readonly type: string }) => {
  const help = useHelp(type)
  return (
    <section className="px-3 py-2.5 text-12 leading-[1.45] text-ink2">
      <p>{help.how}</p>
      <p className="mt-1.5">{help.ranges}</p>
      <p className="mt-1.5">{help.start}</p>
    </section>
  )
}

const CHECK_MS = 250

/** A value as it was when it last rested for so long. */
const useRested = <T,>(value: T, milliseconds: number): T => {
  const [rested, setRested] = useState(value)
  useEffect(() => {
    const timer = setTimeout(() => {
      setRested(value)
    }, milliseconds)
    return () => {
      clearTimeout(timer)
    }
  }, [value, milliseconds])
  return rested
}

/** What was found about it, with what helps. */
const ModuleChecks = ({ module: { id }, patch }: InspectorProps) => {
  const { engine } = useApp()
  // While a field is dragged the patch is another one with every move: it is looked at when that rests.
  const rested = useRested(patch, CHECK_MS)
  const found = useMemo(() => {
    const result = engine.compiled(rested)
    if (!result.ok) return []
    const { silent, unconnected, hints } = adviseOn(rested, result.plan)
    return [...silent, ...unconnected, ...hints].filter(({ place }) => place.split('.')[0] === id)
  }, [engine, rested, id])
  if (found.length === 0) return null
  return (
    <section className="border-b border-rule px-3 py-2" aria-label="Checks">
      {found.map((finding) => (
        <div key={`${finding.place}${finding.message}`} className="py-0.5 text-12">
          <p className="mb-1">
            <span className="mono">{finding.place}</span> {finding.message}
          </p>
          <Remedies finding={finding} />
        </div>
      ))}
    </section>
  )
}

/** What is drawn of it, while the dock does not show that. */
const DrawnHere = ({ module }: { readonly module: PatchModule }) => {
  const { tab, edited } = useDocked(),
    hasDock = useWorkspace((state) => isShown(state, 'dock'))
  if (!hasEditor(module) || (hasDock && tab === 'editor' && edited?.id === module.id)) return null
  return (
    <div className="inspector-editor">
      <EditorOf module={module} />
    </div>
  )
}

/** Loaded with the first field that follows a formula. */
const FieldFormulas = lazy(() =>
  import('./editors/formula/field-formulas.tsx').then((loaded) => ({ default: loaded.FieldFormulas })),
)

/** Fields that follow a formula, where there is room to write it. */
const Formulas = ({ module, description }: Pick<KnownProps, 'module' | 'description'>) => {
  const params = useMemo(
    () =>
      description.params
        .map(({ name }) => name)
        .filter((name) => {
          const value = own(module.params, name)
          return typeof value === 'string' && isFormula(value)
        }),
    [module.params, description],
  )
  if (params.length === 0) return null
  return (
    <Suspense fallback={null}>
      <FieldFormulas module={module} params={params} />
    </Suspense>
  )
}

const Known = ({ module, patch, description }: KnownProps) => {
  const level = useLevel((shown) => shown)
  const used = usedRows(level, module)
  const incoming = level.cables.filter((cable) => cable.to.startsWith(`${module.id}.`) || used.has(cable.to))
  return (
    <>
      <Head module={module} patch={patch} description={description} />
      <LivePicture module={module} patch={patch} />
      <ModuleChecks module={module} patch={patch} />
      {!STRUCTURAL.has(module.type) && <Presets module={module} description={description} />}
      {description.panel && <OwnPanel module={module} panel={description.panel} />}
      <DrawnHere module={module} />
      {description.data && description.data.length > 0 && (
        <DataFields module={module} description={description} patch={patch} />
      )}
      {description.params.length > 0 && (
        <div className="border-b border-rule px-3 py-1.5">
          {description.params.map((param) => (
            <ParamOf key={param.name} id={module.id} param={param} connected={used.has(param.name)} />
          ))}
        </div>
      )}
      <Formulas module={module} description={description} />
      {incoming.length > 0 && (
        <Section title="Cables in">
          <ul className="m-0 list-none p-0">
            {incoming.map((cable) => (
              <CableRow key={cable.id} cable={cable} patch={patch} toward="in" />
            ))}
          </ul>
        </Section>
      )}
      <Help type={description.type} />
    </>
  )
}

/** Everything about one module. */
export const ModuleInspector = ({ module, patch }: InspectorProps) => {
  const description = descriptionOf(module)
  return description ? (
    <Known module={module} patch={patch} description={description} />
  ) : (
    <div className="px-3 py-3">
      “{module.type}” is not known to this version. It stays as it is and is written back unchanged.
    </div>
  )
}
