/** Zones of a sampler as a table: a recording, the keys and velocities it is for, how it goes round. */
import { type DataDescription, noteName, own, type PatchModule } from '@ypsilon/core'
import { X } from 'lucide-react'
import { useRef } from 'react'
import { useApp } from '../app/context.ts'
import { Button, IconButton } from '../ui/button.tsx'
import { Choice } from '../ui/select.tsx'
import { TextField } from '../ui/text-field.tsx'
import { RecordingChoice } from './fields/recording-field.tsx'

type Zone = Readonly<Record<string, unknown>>

interface ZoneListProps {
  readonly module: PatchModule
  readonly data: DataDescription
  readonly value: unknown
  readonly onChange: (zones: readonly Zone[]) => void
}

interface NumberCell {
  readonly name: string
  readonly label: string
  readonly from: number
  readonly to: number
  /** What stands for nothing: the file or the module says. */
  readonly none: string
  readonly isKey?: boolean
}

const CELLS: readonly NumberCell[] = [
  { name: 'root', label: 'Root', from: 0, to: 128, none: 'file', isKey: true },
  { name: 'lowKey', label: 'Low key', from: 0, to: 127, none: '0', isKey: true },
  { name: 'highKey', label: 'High key', from: 0, to: 127, none: '127', isKey: true },
  { name: 'lowVelocity', label: 'Low vel', from: 0, to: 1, none: '0' },
  { name: 'highVelocity', label: 'High vel', from: 0, to: 1, none: '1' },
  { name: 'tune', label: 'Tune, st', from: -48, to: 48, none: '0' },
  { name: 'gain', label: 'Gain, dB', from: -60, to: 24, none: '0' },
  { name: 'pan', label: 'Pan', from: -1, to: 1, none: '0' },
  { name: 'start', label: 'Start', from: 0, to: 1, none: 'module' },
  { name: 'end', label: 'End', from: 0, to: 1, none: 'module' },
  { name: 'loopStart', label: 'Loop from', from: 0, to: 1, none: 'file' },
  { name: 'loopEnd', label: 'Loop to', from: 0, to: 1, none: 'file' },
  { name: 'crossfade', label: 'Crossfade', from: 0, to: 0.5, none: 'module' },
]
const FROM_FILE = 'file or module'
const LOOPS = [FROM_FILE, 'off', 'forward', 'pingpong']

/** A zone with a field set, or without it. */
const withField = (zone: Zone, name: string, value: unknown): Zone =>
  Object.fromEntries(
    Object.entries({ ...zone, [name]: value }).filter(([, field]) => field !== undefined && field !== ''),
  )

interface CellProps {
  readonly cell: NumberCell
  readonly zone: Zone
  readonly label: string
  readonly onSet: (value: unknown) => void
}

const Cell = ({ cell, zone, label, onSet }: CellProps) => {
  const { name, from, to, none, isKey } = cell,
    value = own(zone, name)
  return (
    <label className="zone-cell">
      <span className="truncate text-11 text-ink2">
        {cell.label}
        {isKey && typeof value === 'number' ? ` ${noteName(Math.round(value))}` : ''}
      </span>
      <TextField
        className="mono w-full"
        label={`${cell.label} of ${label}`}
        value={typeof value === 'number' ? String(value) : ''}
        placeholder={none}
        onCommit={(text) => {
          const number = Number(text.replace(',', '.'))
          if (text.trim() === '') onSet(undefined)
          else if (Number.isFinite(number) && number >= from && number <= to) onSet(number)
          else return `A number from ${from} to ${to}.`
          return undefined
        }}
      />
    </label>
  )
}

interface ZoneRowProps {
  readonly zone: Zone
  readonly number: number
  readonly onSet: (zone: Zone) => void
  readonly onRemove: () => void
}

const ZoneRow = ({ zone, number, onSet, onRemove }: ZoneRowProps) => {
  const label = `zone ${number}`
  return (
    <li className="zone" data-zone={number}>
      <div className="flex items-center gap-1.5">
        <span className="mono text-11 text-ink2">{number}</span>
        <RecordingChoice
          label={`Recording of ${label}`}
          value={typeof zone['asset'] === 'string' ? zone['asset'] : ''}
          onChange={(name) => {
            onSet(withField(zone, 'asset', name))
          }}
        />
        <IconButton label={`Remove ${label}`} className="ml-auto" onClick={onRemove}>
          <X size={12} aria-hidden />
        </IconButton>
      </div>
      <div className="zone-cells">
        {CELLS.map((cell) => (
          <Cell
            key={cell.name}
            cell={cell}
            zone={zone}
            label={label}
            onSet={(value) => {
              onSet(withField(zone, cell.name, value))
            }}
          />
        ))}
        <label className="zone-cell">
          <span className="text-11 text-ink2">Turn</span>
          <TextField
            className="mono w-full"
            label={`Turn of ${label}`}
            value={zone['turn'] === undefined ? '' : String(zone['turn'])}
            placeholder="none"
            onCommit={(text) => {
              onSet(withField(zone, 'turn', text.trim()))
              return undefined
            }}
          />
        </label>
        <div className="zone-cell">
          <span className="text-11 text-ink2">Loop</span>
          <Choice
            label={`Loop of ${label}`}
            value={typeof zone['loop'] === 'string' ? zone['loop'] : FROM_FILE}
            options={LOOPS.map((value) => ({ value }))}
            onChange={(word) => {
              onSet(withField(zone, 'loop', word === FROM_FILE ? undefined : word))
            }}
          />
        </div>
      </div>
    </li>
  )
}

export const ZoneList = ({ module, data, value, onChange }: ZoneListProps) => {
  const app = useApp(),
    input = useRef<HTMLInputElement>(null)
  const zones = Array.isArray(value) ? (value as readonly (Zone | null)[]).map((zone) => zone ?? {}) : []
  return (
    <div>
      {zones.length === 0 && (
        <p className="m-0 py-1 text-12 text-ink2">
          No zone yet. Drop a WAV file on the chart while {module.id} is selected, or choose one here.
        </p>
      )}
      <ul className="m-0 list-none p-0" aria-label={`${data.name} of ${module.id}`}>
        {zones.map((zone, at) => (
          <ZoneRow
            // Zones have no names: their place is what they are.
            key={at}
            zone={zone}
            number={at + 1}
            onSet={(next) => {
              onChange(zones.map((other, n) => (n === at ? next : other)))
            }}
            onRemove={() => {
              onChange(zones.filter((_, n) => n !== at))
            }}
          />
        ))}
      </ul>
      <Button
        className="mt-1.5"
        onClick={() => {
          input.current?.click()
        }}
      >
        Add a zone from a file …
      </Button>
      <input
        ref={input}
        type="file"
        hidden
        multiple
        accept=".wav,audio/wav"
        data-zones={module.id}
        aria-label={`Recordings for ${module.id}`}
        onChange={(event) => {
          const files = [...(event.target.files ?? [])]
          event.target.value = ''
          void files.reduce<Promise<void>>(
            (before, file) => before.then(() => app.takeRecording(file, module.id)),
            Promise.resolve(),
          )
        }}
      />
    </div>
  )
}
