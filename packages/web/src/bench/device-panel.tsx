/** A device's own controls, in its own words and units. A control of the module learns one by its being moved. */
import {
  controlOf,
  DEVICE_CONTROLS,
  deviceAt,
  type DeviceSetting,
  freeControl,
  learned,
  own,
  ownParam,
  patchIndex,
  type PatchModule,
  setParam,
  shareAt,
  valueAt,
} from '@ypsilon/core'
import { useEffect, useMemo } from 'react'
import { useStore } from 'zustand'
import type { App } from '../app/app.ts'
import { useApp, useDocument } from '../app/context.ts'
import { Section } from '../ui/panel.tsx'
import { Choice } from '../ui/select.tsx'
import { NumberField } from './fields/number-field.tsx'
import type { FieldEdit } from './fields/types.ts'

const HALF = 0.5
const settingOf =
  (module: PatchModule): DeviceSetting =>
  (name) =>
    String(own(module.params, name) ?? '')

/** The control of a module that learns, or none. */
const learningOf = (learning: string | undefined, id: string): number | undefined =>
  learning?.startsWith(`${id}.p`) ? Number(learning.slice(id.length + 2)) : undefined

/** Moves a device's parameter: the control that learns takes it, or the one that sets it, or one that is free. */
const moved = (app: App, id: string, place: number, value: number, gesture: string): void => {
  const { workspace, document, notifier } = app
  const module = patchIndex(document.getState().patch).module.get(id)
  const setting = module && settingOf(module),
    parameter = setting && deviceAt(setting)?.parameters[place]
  if (!parameter) return
  const learning = learningOf(workspace.getState().learning, id),
    set = controlOf(setting, place),
    control = learning ?? set ?? freeControl(setting)
  if (control === undefined) {
    notifier.error(`No control is free for ${parameter.label.toLowerCase()}`, {
      description: 'Let one of the eight learn it.',
    })
    return
  }
  workspace.getState().learn(undefined)
  document.getState().change(
    control === set ? `Set ${parameter.label.toLowerCase()}` : `Control ${control} learns ${parameter.id}`,
    (draft) => {
      if (control !== set)
        for (const [name, word] of learned(setting, control, parameter.id)) setParam(draft, id, name, word)
      setParam(draft, id, `p${control}`, shareAt(parameter, value))
    },
    gesture,
  )
}

interface OwnControlProps {
  readonly module: PatchModule
  readonly place: number
  readonly tempo: number
}

const OwnControl = ({ module, place, tempo }: OwnControlProps) => {
  const app = useApp(),
    { id } = module
  const setting = settingOf(module),
    parameter = deviceAt(setting)!.parameters[place]!,
    control = controlOf(setting, place)
  const param = useMemo(
    () => ({
      ...ownParam(parameter),
      help: control === undefined ? 'No control sets it.' : `Control ${control} sets it.`,
    }),
    [parameter, control],
  )
  const edit = useMemo((): FieldEdit => {
    const named = (gesture: string): string => `${id}.own.${parameter.id} ${gesture}`
    return {
      set: (value, gesture) => {
        moved(app, id, place, Number(value), named(gesture))
      },
      giveUp: (gesture) => {
        app.document.getState().giveUp(named(gesture))
      },
    }
  }, [app, id, place, parameter])
  const share = control === undefined ? HALF : Number(own(module.params, `p${control}`) ?? HALF)
  return (
    <div className="flex items-center gap-2" data-own={parameter.id}>
      <div className="min-w-0 flex-1">
        <NumberField
          module={id}
          param={param}
          value={valueAt(parameter, Number.isFinite(share) ? share : HALF)}
          tempo={tempo}
          edit={edit}
          onDragged={app.chart.focus}
        />
      </div>
      <span className="mono w-4 shrink-0 text-right text-ink2">{control ?? '–'}</span>
    </div>
  )
}

/** Escape leaves things as they were. */
const useGivingUp = (app: App, isLearning: boolean): void => {
  useEffect(() => {
    if (!isLearning) return undefined
    const giveUp = (event: KeyboardEvent): void => {
      if (event.key !== 'Escape') return
      event.preventDefault()
      event.stopPropagation()
      app.workspace.getState().learn(undefined)
    }
    window.addEventListener('keydown', giveUp, true)
    return () => {
      window.removeEventListener('keydown', giveUp, true)
    }
  }, [app, isLearning])
}

export const DevicePanel = ({ module }: { readonly module: PatchModule }) => {
  const app = useApp(),
    { id } = module
  const tempo = useDocument((state) => state.patch.tempo ?? 120)
  const learning = useStore(app.workspace, (state) => learningOf(state.learning, id))
  useGivingUp(app, learning !== undefined)
  const device = deviceAt(settingOf(module))
  if (!device) return null
  return (
    <Section title={device.label}>
      {device.parameters.map((parameter, place) => (
        <OwnControl key={parameter.id} module={module} place={place} tempo={tempo} />
      ))}
      <div className="field-row">
        <span>Learn</span>
        <Choice
          label="Learn"
          name="learn"
          value={learning === undefined ? '' : String(learning)}
          options={[
            { value: '', label: 'off' },
            ...DEVICE_CONTROLS.map((n) => ({ value: String(n), label: `control ${n}` })),
          ]}
          onChange={(number) => {
            app.workspace.getState().learn(number === '' ? undefined : `${id}.p${number}`)
          }}
        />
      </div>
      {learning !== undefined && (
        <p className="m-0 text-12 text-accent" role="status">
          Move what control {learning} is to set.
        </p>
      )}
    </Section>
  )
}
