/** Starting points of a module, and which of them its settings are. */
import presetsUrl from '@ypsilon/core/generated/presets.json?url'
import { type ModuleDescription, own, type PatchModule, type ParamValue, setParam } from '@ypsilon/core'
import { useApp, useDocuments } from '../app/context.ts'
import { Choice } from '../ui/select.tsx'
import { fileApart } from './apart.ts'

interface Preset {
  readonly name: string
  readonly params: Readonly<Record<string, ParamValue>>
}

const usePresets = fileApart<readonly Preset[]>(presetsUrl)

/** What a preset sets: all but how voices run and, where it does not say, how much of the effect there is. */
const settingsOf = (description: ModuleDescription, { params }: Preset): [string, ParamValue][] =>
  description.params.flatMap((param): [string, ParamValue][] => {
    const given = own(params, param.name)
    if (given !== undefined) return [[param.name, given]]
    const isKept = param.name === 'mix' || param.name === 'per' || (param.kind === 'text' && param.recording)
    return isKept ? [] : [[param.name, param.default]]
  })

const isAt = (module: PatchModule, description: ModuleDescription, preset: Preset): boolean =>
  settingsOf(description, preset).every(([name, value]) => {
    const param = description.params.find((one) => one.name === name)!
    return (own(module.params, name) ?? param.default) === value
  })

/** Values of the menu that are no names of presets. */
const KEPT = 'kept:',
  KEEP = 'keep:'

interface PresetsProps {
  readonly module: PatchModule
  readonly description: ModuleDescription
}

export const Presets = ({ module, description }: PresetsProps) => {
  const app = useApp(),
    shipped = usePresets(module.type),
    heads = useDocuments((state) => state.heads)
  const presets = shipped ?? [],
    kept = heads.filter(
      ({ kind, of, putAside }) => kind === 'preset' && of === module.type && putAside === undefined,
    )
  const now = presets.find((preset) => isAt(module, description, preset))
  return (
    <div className="field-row border-b border-rule px-3 py-1.5">
      <span>Start from</span>
      <Choice
        label="Preset"
        name="preset"
        value={now?.name ?? ''}
        options={[
          ...(now ? [] : [{ value: '', label: 'own settings' }]),
          ...presets.map(({ name }) => ({ value: name })),
          ...kept.map(({ id, name }) => ({ value: `${KEPT}${id}`, label: name })),
          { value: KEEP, label: 'Keep these settings …' },
        ]}
        onChange={(name) => {
          if (name === KEEP) app.commands.get('keep-preset').run(app)
          const head = kept.find(({ id }) => name === `${KEPT}${id}`)
          if (head)
            void import('../app/own-parts.ts').then(({ applySettings }) =>
              applySettings(app, head, module.id),
            )
          const preset = presets.find((one) => one.name === name)
          if (!preset) return
          app.document.getState().change(`Preset ${name}`, (draft) => {
            for (const [param, value] of settingsOf(description, preset))
              setParam(draft, module.id, param, value)
          })
        }}
      />
    </div>
  )
}
