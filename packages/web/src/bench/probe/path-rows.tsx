/** Along which path a response is measured, and with what. */
import type { Excitation } from '@ypsilon/core/analysis/excitation.ts'
import { useApp, useDocument } from '../../app/context.ts'
import { Choice } from '../../ui/select.tsx'
import { PATH_KINDS } from './kinds.ts'
import { Row, type SlotParts } from './option-row.tsx'
import { pathEnd, pathStarts } from './paths.ts'

const HEARD = 'heard'
const EXCITATIONS: readonly { readonly value: Excitation; readonly label: string }[] = [
  { value: 'click', label: 'a click' },
  { value: 'sweep', label: 'a sweep' },
  { value: 'step', label: 'a step' },
]

export const PathRows = ({ name, slot, feed }: SlotParts) => {
  const { probe } = useApp()
  const patch = useDocument((state) => state.patch)
  const { path, target = '' } = slot
  const starts = pathStarts(patch, pathEnd(patch, target, feed.probed(name)?.tap))
  return (
    <>
      <Row label="Measured">
        <Choice
          label={`What slot ${name} measures`}
          value={path.from ?? HEARD}
          options={[
            // Of a signal alone there is no answer to a click.
            ...(PATH_KINDS.has(slot.settings.kind)
              ? []
              : [{ value: HEARD, label: 'what is heard since it was struck' }]),
            ...starts.map(({ from, words }) => ({ value: from, label: `from ${words}` })),
          ]}
          onChange={(from) => {
            probe.getState().change(name, { path: { ...path, from: from === HEARD ? undefined : from } })
          }}
        />
      </Row>
      {path.from !== undefined && (
        <Row label="with">
          <Choice
            label={`Excitation of slot ${name}`}
            value={path.excitation}
            options={EXCITATIONS}
            onChange={(excitation) => {
              probe.getState().change(name, { path: { ...path, excitation: excitation as Excitation } })
            }}
          />
        </Row>
      )}
    </>
  )
}
