/** Several modules in the inspector: what they have in common is set on all of them at once. */
import {
  descriptionOf,
  fromScale,
  isSignalParam,
  labelOf,
  type NumberParam,
  own,
  type ParamDescription,
  type ParamValue,
  patchIndex,
  type PatchModule,
  setParam,
  toScale,
} from '@ypsilon/core'
import { useMemo } from 'react'
import { CommandButton } from '../app/command-button.tsx'
import { useApp, useDocument, useLevel } from '../app/context.ts'
import { Empty, Section } from '../ui/panel.tsx'
import { ParamField } from './fields/param-field.tsx'
import type { FieldEdit } from './fields/types.ts'

const isAlike = (a: ParamDescription, b: ParamDescription | undefined): boolean => {
  if (b?.kind !== a.kind) return false
  if (a.kind === 'number' && b.kind === 'number')
    return a.unit === b.unit && a.log === b.log && a.time === b.time && isSignalParam(a) === isSignalParam(b)
  return a.kind !== 'choice' || (b.kind === 'choice' && a.choices.join() === b.choices.join())
}

/** Parameters that all of some modules have, as the first one has them. */
const commonParams = (modules: readonly PatchModule[]): readonly ParamDescription[] => {
  const [first, ...others] = modules.map((module) => descriptionOf(module)?.params ?? [])
  return (first ?? []).filter((param) =>
    others.every((params) =>
      isAlike(
        param,
        params.find(({ name }) => name === param.name),
      ),
    ),
  )
}

const valueOf = (module: PatchModule, param: ParamDescription): ParamValue =>
  own(module.params, param.name) ?? param.default

/** Moves by hand keep the differences between values; what is typed or chosen is the same for all. */
const isMove = (gesture: string): boolean => !/^(type|choose|switch|reset|text)/.test(gesture)

/** How a parameter of several modules is set: one step a gesture. */
const useSeveralEdit = (ids: readonly string[], param: ParamDescription): FieldEdit => {
  const { document } = useApp()
  return useMemo(() => {
    const key = `${ids.join()}.${param.name}`
    let moving: { readonly gesture: string; readonly from: ReadonlyMap<string, number> } | undefined
    /** Values as they were when a move began. */
    const begun = (gesture: string): ReadonlyMap<string, number> => {
      if (moving?.gesture !== gesture) {
        const { module } = patchIndex(document.getState().patch)
        moving = { gesture, from: new Map(ids.map((id) => [id, Number(valueOf(module.get(id)!, param))])) }
      }
      return moving.from
    }
    const moved = (value: number, gesture: string): Map<string, ParamValue> => {
      const number = param as NumberParam,
        from = begun(gesture)
      const way = toScale(number, value) - toScale(number, from.get(ids[0]!)!)
      return new Map([...from].map(([id, was]) => [id, fromScale(number, toScale(number, was) + way)]))
    }
    return {
      set(value, gesture) {
        const values =
          param.kind === 'number' && typeof value === 'number' && isMove(gesture)
            ? moved(value, gesture)
            : new Map(ids.map((id) => [id, value]))
        document.getState().change(
          `Set ${param.label.toLowerCase()} of ${ids.length} modules`,
          (draft) => {
            for (const [id, next] of values) setParam(draft, id, param.name, next)
          },
          `${key} ${gesture}`,
        )
      },
      giveUp(gesture) {
        document.getState().giveUp(`${key} ${gesture}`)
      },
    }
  }, [document, ids, param])
}

interface RowProps {
  readonly modules: readonly PatchModule[]
  readonly ids: readonly string[]
  readonly param: ParamDescription
}

const SeveralParam = ({ modules, ids, param }: RowProps) => {
  const { chart } = useApp()
  const tempo = useDocument((state) => state.patch.tempo ?? 120)
  const edit = useSeveralEdit(ids, param)
  const values = modules.map((module) => valueOf(module, param)),
    isSame = values.every((value) => value === values[0])
  const shown = useMemo(
    () => (isSame ? param : { ...param, label: `${param.label} (various)` }),
    [param, isSame],
  )
  return (
    <ParamField
      module={ids[0]!}
      param={shown}
      value={values[0]!}
      tempo={tempo}
      edit={edit}
      onDragged={chart.focus}
    />
  )
}

const ACTIONS = ['duplicate', 'group', 'frame', 'bypass', 'mute-module', 'keep-section', 'delete'] as const
const ALIGN = [
  ['align-left', 'Left'],
  ['align-right', 'Right'],
  ['align-top', 'Top'],
  ['align-bottom', 'Bottom'],
  ['space-across', 'Across'],
  ['space-down', 'Down'],
] as const

export const Several = ({ ids }: { readonly ids: readonly string[] }) => {
  const level = useLevel((shown) => shown)
  const modules = ids.map((id) => patchIndex(level).module.get(id)).filter((module) => module !== undefined)
  const params = commonParams(modules)
  return (
    <>
      <header className="flex h-9 items-center border-b border-rule px-3">
        <h2 className="panel-title">{modules.length} modules</h2>
      </header>
      <section className="border-b border-rule px-3 py-2.5">
        <p className="mb-2 truncate text-ink2">{modules.map(({ id }) => labelOf(level, id)).join(', ')}</p>
        <div className="flex flex-wrap gap-2">
          {ACTIONS.map((command) => (
            <CommandButton key={command} command={command} look="small" />
          ))}
        </div>
      </section>
      <Section title="In common">
        {params.length === 0 ? (
          <Empty>These modules have no value in common.</Empty>
        ) : (
          params.map((param) => <SeveralParam key={param.name} modules={modules} ids={ids} param={param} />)
        )}
        <p className="mt-1.5 text-12 text-ink2">
          A drag moves each by as much; what is typed is the same for all.
        </p>
      </Section>
      <Section title="Line up and space">
        <div className="flex flex-wrap gap-2">
          {ALIGN.map(([command, words]) => (
            <CommandButton key={command} command={command} words={words} look="small" />
          ))}
        </div>
      </Section>
    </>
  )
}
