import {
  type Controller,
  labelOf,
  noteName,
  type Patch,
  patchIndex,
  splitTarget,
  targetOf,
} from '@ypsilon/core'
import { useEffect, useState } from 'react'
import { useApp, useDocument } from '../app/context.ts'
import { Empty } from '../ui/panel.tsx'

/** How often what controls say is looked at. */
const LOOK_MS = 250

const KINDS: ReadonlyMap<string, string> = new Map([
  ['control', 'Control'],
  ['pressure', 'Pressure'],
  ['bend', 'Bend'],
  ['slide', 'Slide'],
  ['note', 'Key'],
  ['program', 'Program'],
])

/** What a map listens to, in words. */
const sourceWords = ({ source, controller, channel: plain }: Controller): string => {
  const kind = source?.kind ?? 'control',
    number = source?.number ?? controller,
    channel = source?.channel ?? plain ?? 0
  return [
    KINDS.get(kind),
    number === undefined ? 'any' : kind === 'note' ? noteName(number) : String(number),
    ...(channel === 0 ? [] : [`channel ${channel}`]),
    ...(source?.device === undefined || source.device === 'any' ? [] : [source.device]),
  ].join(' ')
}

/** What a target is called. */
const targetWords = (patch: Patch, target: string): string => {
  if (target.startsWith('macro:')) return patchIndex(patch).macro.get(target.slice(6))?.name ?? target
  if (target.startsWith('cable:')) {
    const cable = patchIndex(patch).cable.get(target.slice(6))
    const ends = [cable?.from, cable?.to].map((end) => labelOf(patch, splitTarget(end ?? '')?.[0] ?? ''))
    return `amount of ${ends.join(' to ')}`
  }
  const found = targetOf(patch, target)
  return found.kind === 'param'
    ? `${labelOf(patch, found.module.id)} ${found.param.label.toLowerCase()}`
    : target
}

/** The maps of the patch on the bench, where each control stands, and which of them wait to meet their target. */
export const ControlList = () => {
  const { engine } = useApp()
  const patch = useDocument((state) => state.patch)
  const [states, setStates] = useState(engine.controllers())
  useEffect(() => {
    const timer = setInterval(() => {
      setStates(engine.controllers())
    }, LOOK_MS)
    return () => {
      clearInterval(timer)
    }
  }, [engine])
  const controllers = patch.controllers ?? []
  if (controllers.length === 0) return <Empty>The patch on the bench maps no controls.</Empty>
  return (
    <table className="table">
      <thead>
        <tr>
          <th>Control</th>
          <th>Moves</th>
          <th>Stands at</th>
          <th>
            <span className="sr-only">State</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {controllers.map((controller, index) => {
          const state = states.find((item) => item.index === index)
          return (
            <tr key={index}>
              <td>{sourceWords(controller)}</td>
              <td>{targetWords(patch, controller.target)}</td>
              <td className="mono">
                {state?.position === undefined ? '–' : `${Math.round(state.position * 100)} %`}
              </td>
              <td className="text-ink2">{state && !state.taken ? 'waits to meet its target' : ''}</td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}
