/** A number of an editor that is typed, with the units that make sense there. */
import { type NumberParam, parseNumber, printNumber } from '@ypsilon/core'
import { useDocument } from '../../app/context.ts'
import { TextField } from '../../ui/text-field.tsx'

/** A number that is no parameter, as fields read and print it. */
export const plain = (
  name: string,
  label: string,
  min: number,
  max: number,
  unit: NumberParam['unit'] = '',
): NumberParam => ({ kind: 'number', name, label, min, max, default: 0, unit })

interface NumberTextProps {
  readonly param: NumberParam
  readonly value: number
  readonly onSet: (value: number) => void
}

export const NumberText = ({ param, value, onSet }: NumberTextProps) => {
  const tempo = useDocument(({ patch }) => patch.tempo ?? 120)
  return (
    <label className="flex items-center gap-1 text-ink2">
      {param.label}
      <TextField
        className="mono w-20 text-right"
        label={param.label}
        value={printNumber(param, value)}
        onCommit={(text) => {
          const read = parseNumber(param, text, { tempo, now: value })
          if (!read.ok) return read.message
          onSet(read.value)
          return undefined
        }}
      />
    </label>
  )
}
