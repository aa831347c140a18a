/** Places of a picture at which values are dragged: by pointer, and with arrows by keyboard. */
import {
  descriptionOf,
  handlesOf,
  type HandleValues,
  labelOf,
  moduleIn,
  own,
  paramAt,
  type PatchModule,
  patchIndex,
  type PictureHandle,
  printNumber,
  setParam,
} from '@ypsilon/core'
import { type KeyboardEvent, type PointerEvent, useMemo } from 'react'
import { useApp } from '../app/context.ts'
import type { App } from '../app/app.ts'
import { Tip } from '../ui/tooltip.tsx'
import { newGesture } from './fields/types.ts'
import { useNudge } from './fields/use-nudge.ts'
import { followPointer } from './follow-pointer.ts'

/** Steps of the arrows, as shares of the picture. */
const STEP = 0.01,
  FINE = 0.002

const WAYS: ReadonlyMap<string, readonly [number, number]> = new Map([
  ['ArrowRight', [1, 0]],
  ['ArrowLeft', [-1, 0]],
  ['ArrowUp', [0, 1]],
  ['ArrowDown', [0, -1]],
])

const within = (value: number): number => Math.min(1, Math.max(0, value))

/** Sets what a handle gives, as far as the parameters go: one step a gesture. */
const apply = (
  { document }: App,
  id: string,
  name: string,
  { params, data }: HandleValues,
  gesture: string,
): void => {
  document.getState().change(
    `Set ${name.toLowerCase()} of ${labelOf(document.getState().patch, id)}`,
    (draft) => {
      const module = moduleIn(draft, id)
      if (!module) return
      for (const [param, value] of Object.entries(params ?? {})) {
        const known = descriptionOf(module as PatchModule)?.params.find((one) => one.name === param)
        const range = known && paramAt(known, module.params as PatchModule['params'])
        if (range?.kind === 'number')
          setParam(draft, id, param, Math.min(range.max, Math.max(range.min, value)))
      }
      if (data) module.data = { ...module.data, ...(JSON.parse(JSON.stringify(data)) as object) }
    },
    `handle-${id} ${gesture}`,
  )
}

/** Its values, in words. */
const wordsOf = (module: PatchModule, { name, shows, at }: PictureHandle): string => {
  const params = descriptionOf(module)?.params ?? []
  const words = shows.flatMap((shown) => {
    const known = params.find((param) => param.name === shown)
    const param = known && paramAt(known, module.params)
    return param?.kind === 'number'
      ? [printNumber(param, Number(own(module.params, shown) ?? param.default))]
      : []
  })
  return words.length > 0
    ? `${name}: ${words.join(', ')}`
    : `${name}: ${at.map((place) => place.toFixed(2)).join(', ')}`
}

interface HandleProps {
  readonly module: PatchModule
  readonly handle: PictureHandle
  readonly index: number
}

/** How a handle is moved: by pointer, and by arrows. */
const useMoves = ({ module: { id }, handle, index }: HandleProps) => {
  const app = useApp()
  const nudge = useNudge(app)
  const drag = (event: PointerEvent<HTMLElement>): void => {
    if (event.button !== 0) return
    event.preventDefault()
    event.stopPropagation()
    const { left, top, width, height } = event.currentTarget.parentElement!.getBoundingClientRect(),
      gesture = newGesture('handle')
    followPointer(event, {
      move: ({ clientX, clientY }) => {
        const [x, y] = [within((clientX - left) / width), within(1 - (clientY - top) / height)]
        // By the picture as it was when the handle was taken: it may be another one by now.
        apply(app, id, handle.name, handle.moved(x, y), gesture)
      },
      drop: () => {
        app.chart.focus()
      },
      giveUp: () => {
        app.document.getState().giveUp(`handle-${id} ${gesture}`)
      },
    })
  }
  const onKeyDown = (event: KeyboardEvent): void => {
    const step = event.shiftKey ? FINE : STEP
    const way = WAYS.get(event.key)
    if (!way) return
    const [dx, dy] = way.map((one) => one * step) as [number, number]
    event.preventDefault()
    event.stopPropagation()
    // Anew from the module as it stands: the handle of this render may be older than the last press.
    const { module: modules } = patchIndex(app.document.getState().patch)
    const fresh = modules.get(id) && handlesOf(modules.get(id)!)[index]
    if (fresh)
      apply(app, id, fresh.name, fresh.moved(within(fresh.at[0] + dx), within(fresh.at[1] + dy)), nudge())
  }
  return { onPointerDown: drag, onKeyDown }
}

const Handle = (props: HandleProps) => {
  const { module, handle } = props
  const words = wordsOf(module, handle)
  return (
    <Tip words={words}>
      <span
        role="slider"
        tabIndex={0}
        className="picture-handle nokey"
        data-handle={handle.name}
        aria-label={handle.name}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(100 * handle.at[0])}
        aria-valuetext={words}
        style={{ left: `${100 * within(handle.at[0])}%`, top: `${100 * (1 - within(handle.at[1]))}%` }}
        {...useMoves(props)}
      />
    </Tip>
  )
}

export const PictureHandles = ({ module }: { readonly module: PatchModule }) => {
  const handles = useMemo(() => handlesOf(module), [module])
  return handles.map((handle, index) => (
    <Handle key={handle.name} module={module} handle={handle} index={index} />
  ))
}
