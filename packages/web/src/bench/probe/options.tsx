/** How a slot shows what it shows: a sheet at its button. */
import { isResponseKind } from '@ypsilon/core/probe/responses.ts'
import { SCOPE_WINDOWS, type ScopeLock } from '@ypsilon/core/probe/settings.ts'
import { Ellipsis } from 'lucide-react'
import { useApp } from '../../app/context.ts'
import { Button, IconButton } from '../../ui/button.tsx'
import { Sheet } from '../../ui/popover.tsx'
import { Choice } from '../../ui/select.tsx'
import { valueWords } from './axes.ts'
import { Row, type SlotParts } from './option-row.tsx'
import { OverRows } from './over-rows.tsx'
import { PathRows } from './path-rows.tsx'
import { SpectrumRows } from './spectrum-rows.tsx'

const LOCKS: readonly { readonly value: ScopeLock; readonly label: string }[] = [
  { value: 'free', label: 'free' },
  { value: 'trigger', label: 'from a rise' },
  { value: 'pitch', label: 'locked to pitch' },
]

/** Lock and window of a scope. */
export const ScopeChoices = ({ name, slot: { settings } }: SlotParts) => {
  const { probe, chart } = useApp()
  return (
    <>
      <Choice
        label={`Lock of slot ${name}`}
        value={settings.lock}
        options={LOCKS}
        onPointed={chart.focus}
        onChange={(lock) => {
          probe.getState().set(name, { lock: lock as ScopeLock })
        }}
      />
      <Choice
        label={`Window of slot ${name}`}
        value={String(settings.windowSeconds)}
        options={SCOPE_WINDOWS.map((seconds) => ({
          value: String(seconds),
          label: valueWords(seconds, 's'),
        }))}
        onPointed={chart.focus}
        onChange={(seconds) => {
          probe.getState().set(name, { windowSeconds: Number(seconds) })
        }}
      />
    </>
  )
}

interface OptionsProps extends SlotParts {
  readonly onPng: () => void
  readonly onCsv: () => void
}

export const SlotOptions = (props: OptionsProps) => {
  const { name, slot, onPng, onCsv } = props
  const { probe, chart } = useApp()
  const { kind } = slot.settings
  return (
    <Sheet
      label={`More of slot ${name}`}
      onClosed={(event) => {
        event.preventDefault()
        chart.focus()
      }}
      trigger={
        <IconButton label={`More of slot ${name}`} isSmall side="top">
          <Ellipsis size={15} aria-hidden />
        </IconButton>
      }
    >
      <div className="flex flex-col gap-1 text-12">
        {kind === 'scope' && (
          <Row label="Scope">
            <ScopeChoices {...props} />
          </Row>
        )}
        {kind === 'spectrum' && <SpectrumRows {...props} />}
        {isResponseKind(kind) && <PathRows {...props} />}
        <OverRows {...props} />
        <Row label="Held levels and sums">
          <Button
            look="small"
            onClick={() => {
              probe.getState().change(name, { begun: slot.begun + 1 })
            }}
          >
            Begin anew
          </Button>
        </Row>
        <Row label="Save">
          <Button look="small" onClick={onPng}>
            PNG
          </Button>
          <Button look="small" onClick={onCsv}>
            CSV
          </Button>
        </Row>
      </div>
    </Sheet>
  )
}
