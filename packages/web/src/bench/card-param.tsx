import {
  followed,
  own,
  paramAt,
  type ParamDescription,
  type ParamValue,
  patchIndex,
  setParam,
} from '@ypsilon/core'
import { memo, useCallback, useEffect, useMemo, useRef } from 'react'
import { useShallow } from 'zustand/react/shallow'
import { useApp, useDocument } from '../app/context.ts'
import { ParamField } from './fields/param-field.tsx'
import type { FieldEdit } from './fields/types.ts'
import { reachOf } from './reach.ts'

/** How a parameter of a module is set: one step a gesture. */
const useParamEdit = (id: string, param: ParamDescription): FieldEdit => {
  const { document } = useApp()
  const { name, label } = param
  return useMemo(
    () => ({
      set(value: ParamValue, gesture: string) {
        document.getState().change(
          `Set ${label.toLowerCase()}`,
          (draft) => {
            setParam(draft, id, name, value)
          },
          `${id}.${name} ${gesture}`,
        )
      },
      giveUp(gesture: string) {
        document.getState().giveUp(`${id}.${name} ${gesture}`)
      },
    }),
    [document, id, name, label],
  )
}

/** The parameter as it is at the module's settings. */
const useParamAt = (id: string, known: ParamDescription): ParamDescription => {
  const names = followed(known)
  const values = useDocument(
    useShallow((state) => {
      const { params } = patchIndex(state.patch).module.get(id) ?? {}
      return names.map((name) => own(params, name))
    }),
  )
  return useMemo(
    () => paramAt(known, Object.fromEntries(followed(known).map((name, n) => [name, values[n]]))),
    [known, values],
  )
}

interface ParamRowProps {
  readonly id: string
  readonly param: ParamDescription
  readonly connected: boolean
}

/** The field of one parameter, on a card or in the inspector, with what modulation makes of it. */
export const CardParam = memo(({ id, param: known, connected }: ParamRowProps) => {
  const { frames, chart } = useApp()
  const param = useParamAt(id, known)
  const isModulated = connected && param.kind === 'number'
  const value = useDocument(
    (state) => own(patchIndex(state.patch).module.get(id)?.params, param.name) ?? param.default,
  )
  const tempo = useDocument((state) => state.patch.tempo ?? 120)
  const band = useDocument(useShallow((state) => (isModulated ? reachOf(state.patch, id, param) : undefined)))
  const edit = useParamEdit(id, param)
  const row = useRef<HTMLDivElement>(null)
  useEffect(() => {
    const element = row.current?.querySelector<HTMLElement>('[data-live]')
    return element && isModulated ? frames.tick(element, `>${id}.${param.name}`, param) : undefined
  }, [frames, isModulated, id, param])
  const moved = useCallback(
    (element: HTMLElement | null) => frames.mark(element, `${id}.${param.name}`, param),
    [frames, id, param],
  )
  return (
    <div ref={row} className="w-full min-w-0">
      <ParamField
        module={id}
        param={param}
        value={value}
        tempo={tempo}
        band={band}
        isLive={isModulated}
        moved={moved}
        edit={edit}
        onDragged={chart.focus}
      />
    </div>
  )
})
