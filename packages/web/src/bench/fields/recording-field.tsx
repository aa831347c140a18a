/** Which recording a module plays: one of the patch, one that comes with us, or one from a file. */
import { useRef } from 'react'
import { useApp, useDocument } from '../../app/context.ts'
import { Choice } from '../../ui/select.tsx'
import { type FieldProps, newGesture } from './types.ts'

/** Stands for choosing a file; no recording is called so. */
const FROM_FILE = ' file'

/** Recordings that a patch has, by name. */
export const useRecordings = (): readonly string[] => {
  const assets = useDocument(({ patch }) => patch['assets']) as Record<string, { kind?: string }> | undefined
  return Object.entries(assets ?? {})
    .filter(([, asset]) => asset.kind === 'audio')
    .map(([id]) => id)
}

interface RecordingChoiceProps {
  readonly label: string
  readonly value: string
  readonly name?: string
  readonly offers?: readonly string[]
  readonly onChange: (name: string) => void
  /** Where a file goes; nothing is read from files where it is left out. */
  readonly module?: string
}

/** A menu of recordings. */
export const RecordingChoice = ({
  label,
  value,
  name,
  offers = [],
  onChange,
  module,
}: RecordingChoiceProps) => {
  const app = useApp(),
    names = useRecordings(),
    input = useRef<HTMLInputElement>(null)
  const all = new Set([...(value === '' ? [] : [value]), ...names, ...offers])
  const isMissing = value !== '' && !names.includes(value) && !offers.includes(value)
  return (
    <>
      <Choice
        label={label}
        value={value}
        {...(name === undefined ? {} : { name })}
        options={[
          { value: '', label: 'none' },
          ...Array.from(all, (one) => ({
            value: one,
            label: one === value && isMissing ? `${one} (not here)` : one,
          })),
          ...(module === undefined ? [] : [{ value: FROM_FILE, label: 'From a file …' }]),
        ]}
        onChange={(word) => {
          if (word === FROM_FILE) input.current?.click()
          else onChange(word)
        }}
      />
      {module !== undefined && (
        <input
          ref={input}
          type="file"
          hidden
          accept=".wav,audio/wav"
          data-recording={module}
          aria-label={`${label} from a file`}
          onChange={(event) => {
            const [file] = event.target.files ?? []
            if (file) void app.takeRecording(file, module)
            event.target.value = ''
          }}
        />
      )}
    </>
  )
}

/** The same for a parameter. */
export const RecordingField = ({ module, param, value, edit }: FieldProps) => (
  <div className="field-row nodrag">
    <span>{param.label}</span>
    <RecordingChoice
      label={param.label}
      name={param.name}
      value={String(value)}
      {...(param.kind === 'text' && param.offers ? { offers: param.offers } : {})}
      module={module}
      onChange={(word) => {
        edit.set(word, newGesture('choose'))
      }}
    />
  </div>
)
