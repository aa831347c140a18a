import {
  own,
  adviseOn,
  CATALOGUE,
  compile,
  descriptionOf,
  type Cable,
  type ModuleDescription,
  type ParamDescription,
  type Patch,
  type PatchModule,
  type ParamValue,
  paramAt,
  printAmount,
  removeCables,
  setParam,
  splitTarget,
} from '@ypsilon/core'
import { memo, useCallback, useMemo, useState } from 'react'
import { X } from 'lucide-react'
import { useDocument } from '../store/document.ts'
import { useSession } from '../store/session.ts'
import { ModuleMark, kindColour, PortMark } from '../ui/icons.tsx'
import { ParamField } from '../ui/param-field.tsx'
import { reachOf } from './card.tsx'
import { setAmount } from './cables.tsx'
import { labelOf } from './commands.ts'
import { registerMoved } from './live.ts'
import { DataFields } from './data-fields.tsx'
import { ModulePicture } from './module-picture.tsx'
import { Picture } from './picture.tsx'

interface ModuleParamProps {
  readonly module: PatchModule
  readonly param: ParamDescription
  readonly patch: Patch
  onChange(value: ParamValue, gesture: string): void
}

/** One parameter of the selected module: what is set, how far modulation reaches, where it was moved to. */
const ModuleParam = ({ module, param, patch, onChange }: ModuleParamProps) => {
  const { id } = module
  const moved = useCallback(
    (element: HTMLElement | null) => registerMoved(element, `${id}.${param.name}`, param),
    [id, param],
  )
  return (
    <ParamField
      param={param}
      value={own(module.params, param.name) ?? param.default}
      tempo={patch.tempo ?? 120}
      onChange={onChange}
      band={param.kind === 'number' ? reachOf(patch, id, param) : undefined}
      moved={moved}
    />
  )
}

const AmountField = ({ cable, patch }: { cable: Cable; patch: Patch }) => {
  const [id = '', name = ''] = splitTarget(cable.to) ?? []
  const param = CATALOGUE.get(patch.modules.find((module) => module.id === id)?.type ?? '')?.params.get(name)
  const [text, setText] = useState<string | undefined>(undefined)
  const amount = cable.amount ?? 1
  const scale = param?.kind === 'number' && param.unit === '%' ? 100 : 1
  return text === undefined ? (
    <button
      type="button"
      className="mono border-0 bg-transparent p-0"
      title="Type an amount"
      aria-label={`Amount, ${printAmount(param, amount)}`}
      onClick={() => {
        setText(String(Math.round(amount * scale * 1000) / 1000))
      }}
    >
      {printAmount(param, amount)}
    </button>
  ) : (
    <input
      autoFocus
      className="mono w-20 border border-accent bg-card px-1 text-right"
      aria-label="Amount"
      value={text}
      onFocus={(event) => {
        event.target.select()
      }}
      onChange={(event) => {
        setText(event.target.value)
      }}
      onBlur={() => {
        setText(undefined)
      }}
      onKeyDown={(event) => {
        event.stopPropagation()
        if (event.key === 'Escape') setText(undefined)
        if (event.key === 'Enter') {
          const value = Number(text.replace(',', '.').replace(/[^\d.+-]/g, '')) / scale
          if (Number.isFinite(value)) setAmount(cable.id!, value, `type-${Date.now()}`)
          setText(undefined)
        }
      }}
    />
  )
}

const CableRow = memo(({ cable, patch, toward }: { cable: Cable; patch: Patch; toward: 'in' | 'both' }) => {
  const change = useDocument((state) => state.change)
  const [from = '', port = ''] = splitTarget(cable.from) ?? []
  const [to = '', input = ''] = splitTarget(cable.to) ?? []
  const kind =
    CATALOGUE.get(patch.modules.find((module) => module.id === from)?.type ?? '')?.outputs.get(port)?.kind ??
    'control'
  return (
    <li className="flex items-center gap-2 py-[3px]">
      <PortMark kind={kind} filled />
      <span className="min-w-0 flex-1 truncate">
        {labelOf(patch, from)} {port}{' '}
        <span className="text-ink2">
          → {toward === 'both' ? `${labelOf(patch, to)} ` : ''}
          {input}
        </span>
      </span>
      <AmountField cable={cable} patch={patch} />
      <button
        type="button"
        className="iconbtn !h-6 !min-w-6"
        aria-label={`Remove the cable from ${cable.from} to ${cable.to}`}
        title="Remove"
        onClick={() => {
          change('Remove a cable', (draft) => {
            removeCables(draft, new Set([cable.id ?? '']))
          })
        }}
      >
        <X size={13} />
      </button>
    </li>
  )
})

const Section = ({ title, children }: { title: string; children: React.ReactNode }) => (
  <section className="border-b border-rule px-3 py-2.5">
    <h3 className="panel-title mb-1.5">{title}</h3>
    {children}
  </section>
)

const ModuleInspector = ({
  module,
  description,
  patch,
}: {
  module: PatchModule
  description: ModuleDescription
  patch: Patch
}) => {
  const change = useDocument((state) => state.change)
  const incoming = patch.cables.filter((cable) => cable.to.startsWith(`${module.id}.`))
  const set =
    (name: string, label: string) =>
    (value: ParamValue, gesture: string): void => {
      change(
        `Set ${label.toLowerCase()}`,
        (draft) => {
          setParam(draft, module.id, name, value)
        },
        `${module.id}.${name} ${gesture}`,
      )
    }
  return (
    <>
      <header className="flex h-9 items-center gap-2 border-b border-rule px-3">
        <ModuleMark module={description} />
        <h2 className="panel-title truncate">{labelOf(patch, module.id)}</h2>
        <span className="truncate text-ink2">
          {module.label !== undefined ? description.label.toLowerCase() : ''}
        </span>
        <span className="mono ml-auto text-ink2">{module.id}</span>
      </header>
      {description.picture ? (
        <ModulePicture module={module} description={description} />
      ) : (
        <Picture module={module} />
      )}
      {description.data && description.data.length > 0 && (
        <DataFields module={module} description={description} patch={patch} />
      )}
      {description.params.length > 0 && (
        <div className="border-b border-rule px-3 py-1.5">
          {description.params.map((known) => {
            const param = paramAt(known, module.params)
            return (
              <ModuleParam
                key={param.name}
                module={module}
                param={param}
                patch={patch}
                onChange={set(param.name, param.label)}
              />
            )
          })}
        </div>
      )}
      {incoming.length > 0 && (
        <Section title="Cables in">
          <ul className="m-0 list-none p-0">
            {incoming.map((cable) => (
              <CableRow key={cable.id} cable={cable} patch={patch} toward="in" />
            ))}
          </ul>
        </Section>
      )}
      <section className="px-3 py-2.5 text-[12.5px] leading-[1.45] text-ink2">
        <p>{description.help.how}</p>
        <p className="mt-1.5">{description.help.ranges}</p>
        <p className="mt-1.5">{description.help.start}</p>
      </section>
    </>
  )
}

const PatchInspector = ({ patch }: { patch: Patch }) => {
  const history = useDocument((state) => state.history)
  const change = useDocument((state) => state.change)
  const advice = useMemo(() => {
    const result = compile(patch)
    return result.ok ? adviseOn(patch, result.plan) : undefined
  }, [patch])
  const checks = [...(advice?.silent ?? []), ...(advice?.unconnected ?? []), ...(advice?.hints ?? [])]
  return (
    <>
      <header className="flex h-9 items-center border-b border-rule px-3">
        <h2 className="panel-title">Patch</h2>
        <span className="mono ml-auto text-ink2">
          {patch.modules.length} modules · {patch.cables.length} cables
        </span>
      </header>
      <Section title="Notes">
        <textarea
          className="h-16 w-full resize-none rounded-[3px] border border-rule bg-transparent p-1.5"
          aria-label="Notes about the patch"
          placeholder="What it is for, how to play it"
          value={patch.description ?? ''}
          onKeyDown={(event) => {
            event.stopPropagation()
          }}
          onChange={(event) => {
            change(
              'Write notes',
              (draft) => {
                draft.description = event.target.value
              },
              'notes',
            )
          }}
        />
      </Section>
      <Section title="Checks">
        {patch.modules.length === 0 ? (
          <p className="text-ink2">Nothing to check yet.</p>
        ) : checks.length === 0 ? (
          <p className="text-ink2">Every module leads to an output.</p>
        ) : (
          <ul className="m-0 list-none p-0">
            {checks.map(({ place, message }) => (
              <li key={`${place}${message}`} className="py-0.5">
                <button
                  type="button"
                  className="border-0 bg-transparent p-0 text-left"
                  onClick={() => {
                    useSession.getState().select([place.split('.')[0]!])
                  }}
                >
                  <span className="mono">{place}</span> <span className="text-ink2">{message}</span>
                </button>
              </li>
            ))}
          </ul>
        )}
        {advice && advice.loops.length > 0 && (
          <ul className="m-0 mt-1 list-none p-0">
            {advice.loops.map((loop) => (
              <li key={loop.modules.join()} className="py-0.5">
                Loop <span className="mono">{loop.modules.join(' → ')}</span>{' '}
                <span className="text-ink2">{loop.delay}</span>
              </li>
            ))}
          </ul>
        )}
        {advice && (
          <p className="mono mt-1.5 text-ink2">
            {advice.voices} {advice.voices === 1 ? 'voice' : 'voices'}
          </p>
        )}
      </Section>
      <Section title="History">
        {history.past.length === 0 ? (
          <p className="text-ink2">Each step appears here and can be undone.</p>
        ) : (
          <ol className="m-0 list-none p-0" reversed>
            {history.past
              .slice(-12)
              .reverse()
              .map((step, index) => (
                <li key={history.past.length - index} className={index === 0 ? 'py-px' : 'py-px text-ink2'}>
                  {step.name}
                </li>
              ))}
          </ol>
        )}
      </Section>
    </>
  )
}

const SeveralInspector = ({ count }: { count: number }) => (
  <div className="px-3 py-3">
    <h2 className="panel-title mb-1.5">{count} modules</h2>
    <p className="text-ink2">
      Move them together, duplicate them with their wiring (Ctrl+D), delete them (Backspace).
    </p>
  </div>
)

/** Right: the selected module, cable or the patch itself. */
export const Inspector = () => {
  const patch = useDocument((state) => state.patch)
  const selection = useSession((state) => state.selection)
  const cableId = useSession((state) => state.cable)
  const module = selection.length === 1 ? patch.modules.find((item) => item.id === selection[0]) : undefined
  const description = module && descriptionOf(module)
  const cable = patch.cables.find((item) => item.id === cableId)
  return (
    <aside
      className="h-full w-[296px] shrink-0 overflow-auto border-l border-rule bg-card"
      aria-label="Inspector"
    >
      {cable ? (
        <Section title="Cable">
          <ul className="m-0 list-none p-0">
            <CableRow cable={cable} patch={patch} toward="both" />
          </ul>
          <p
            className="mt-1 text-[12px] text-ink2"
            style={{ borderLeft: `3px solid ${kindColour('control')}`, paddingLeft: 6 }}
          >
            The amount multiplies the signal, in the unit of what it moves. Click it to type.
          </p>
        </Section>
      ) : module && description ? (
        <ModuleInspector key={module.id} module={module} description={description} patch={patch} />
      ) : module ? (
        <div className="px-3 py-3">
          “{module.type}” is not known to this version. It stays as it is and is written back unchanged.
        </div>
      ) : selection.length > 1 ? (
        <SeveralInspector count={selection.length} />
      ) : (
        <PatchInspector patch={patch} />
      )}
    </aside>
  )
}
