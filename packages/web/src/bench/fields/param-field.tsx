/** Any parameter, by the field its kind names. */
import { fieldFault, isFormula, isSignalParam, kindOf, type NumberParam, parseNumber } from '@ypsilon/core'
import { type ComponentType, memo } from 'react'
import { Choice } from '../../ui/select.tsx'
import { TextField } from '../../ui/text-field.tsx'
import { Tip } from '../../ui/tooltip.tsx'
import { RecordingField } from './recording-field.tsx'
import { NumberField } from './number-field.tsx'
import { type FieldProps, type MovedRef, newGesture } from './types.ts'

/** A field that holds a formula: its text, to be typed over; emptied, the field goes back to its default. */
const FormulaField = ({ param, value, tempo, edit }: FieldProps) => {
  const commit = (text: string): string | undefined => {
    const next = text.trim()
    if (next === '') {
      edit.set('default' in param ? param.default : 0, newGesture('type'))
      return undefined
    }
    if (param.kind === 'number' && !isFormula(next)) {
      const number = parseNumber(param, next, { tempo })
      if (number.ok) {
        edit.set(number.value, newGesture('type'))
        return undefined
      }
    }
    const formula = isFormula(next) ? next : `= ${next}`
    const fault = fieldFault(formula)
    if (fault === undefined) edit.set(formula, newGesture('type'))
    return fault
  }
  return (
    <div className="field-row nodrag nopan nowheel" data-formula={param.name}>
      <span>{param.label}</span>
      <TextField
        className="mono text-right text-accent"
        label={`${param.label}, formula`}
        data-param={param.name}
        value={String(value)}
        onCommit={commit}
        onPointerDown={(event) => {
          event.stopPropagation()
        }}
      />
    </div>
  )
}

/** The word that is heard while another is set. */
const MovedWord = ({ moved }: { readonly moved: MovedRef }) => (
  <span className="mono moved-word ml-auto" data-moved="" ref={moved} />
)

const NumberEditor = ({ param, value, ...rest }: FieldProps) => (
  <NumberField param={param as NumberParam} value={Number(value)} {...rest} />
)

const SwitchEditor = ({ param, value, moved, edit }: FieldProps) => (
  <Tip words={`${param.label} is ${value === true ? 'on' : 'off'}. ${param.help ?? ''}`}>
    <button
      type="button"
      role="switch"
      aria-checked={value === true}
      aria-label={param.label}
      data-param={param.name}
      className="field-row field-button nodrag"
      onClick={() => {
        edit.set(value !== true, newGesture('switch'))
      }}
    >
      <span>{param.label}</span>
      {moved && <MovedWord moved={moved} />}
      <span className="mono">{value === true ? 'on' : 'off'}</span>
    </button>
  </Tip>
)

const ChoiceEditor = ({ param, value, moved, edit, onDragged }: FieldProps) => (
  <div className="field-row nodrag">
    <span>{param.label}</span>
    {moved && <MovedWord moved={moved} />}
    <Choice
      label={param.label}
      name={param.name}
      value={String(value)}
      options={('choices' in param ? param.choices : []).map((word) => ({ value: word }))}
      onChange={(word) => {
        edit.set(word, newGesture('choose'))
      }}
      {...(onDragged ? { onPointed: onDragged } : {})}
    />
  </div>
)

/** Known names to choose from; others are kept. */
const NameEditor = ({ param, value, edit }: FieldProps) => (
  <div className="field-row nodrag">
    <span>{param.label}</span>
    <Choice
      label={param.label}
      name={param.name}
      value={String(value)}
      options={[...new Set([String(value), ...((param.kind === 'text' && param.offers) || [])])].map(
        (name) => ({
          value: name,
          label: name === '' ? '–' : name,
        }),
      )}
      onChange={(name) => {
        edit.set(name, newGesture('choose'))
      }}
    />
  </div>
)

const TextEditor = (props: FieldProps) => {
  const { param } = props
  if (param.kind === 'text' && param.recording) return <RecordingField {...props} />
  return param.kind === 'text' && param.offers ? <NameEditor {...props} /> : <PlainText {...props} />
}

const PlainText = ({ param, value, edit }: FieldProps) => (
  <div className="field-row nodrag">
    <span>{param.label}</span>
    <TextField
      label={param.label}
      data-param={param.name}
      className="mono w-24 text-right"
      value={String(value)}
      onCommit={(text) => {
        if (text.trim() === '' && 'default' in param && param.default !== '')
          return `${param.label} needs a word.`
        edit.set(text.trim(), newGesture('text'))
        return undefined
      }}
    />
  </div>
)

/** Fields by the names that kinds of parameters give them. */
const EDITORS: ReadonlyMap<string, ComponentType<FieldProps>> = new Map([
  ['number', NumberEditor],
  ['switch', SwitchEditor],
  ['choice', ChoiceEditor],
  ['text', TextEditor],
])

/** One parameter; what holds a formula shows its text. */
export const ParamField = memo((props: FieldProps) => {
  const { param, value } = props
  if (isFormula(value) && isSignalParam(param)) return <FormulaField {...props} />
  const Editor = EDITORS.get(kindOf(param).editor) ?? TextEditor
  return <Editor {...props} />
})
