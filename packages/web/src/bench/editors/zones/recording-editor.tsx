/** A player's recording in the dock: the part that plays, and its slices. */
import { labelOf, own, setParam } from '@ypsilon/core'
import { useApp, useDocument } from '../../../app/context.ts'
import { HowTo } from '../how-to.tsx'
import { NumberText, plain } from '../number-text.tsx'
import type { EditorProps } from '../types.ts'
import { WaveMarks } from './wave-marks.tsx'

/** What plays of the recording, and how that is set. */
const usePart = ({ module, description }: EditorProps, name: string) => {
  const app = useApp()
  const numberOf = (param: string): number => {
    const value = own(module.params, param) ?? description.params.find((each) => each.name === param)?.default
    return typeof value === 'number' ? value : 0
  }
  return {
    from: numberOf('from'),
    to: numberOf('to'),
    slices: Math.round(numberOf('slices')),
    set: (param: string, value: number, gesture?: string): void => {
      app.document.getState().change(
        `Set ${param} of ${name}`,
        (draft) => {
          setParam(draft, module.id, param, value)
        },
        gesture === undefined ? undefined : `${module.id} ${gesture}`,
      )
    },
    giveUp: (gesture: string): void => {
      app.document.getState().giveUp(`${module.id} ${gesture}`)
    },
  }
}

export const RecordingEditor = (props: EditorProps) => {
  const { module, description } = props
  const name = useDocument(({ patch }) => labelOf(patch, module.id))
  const { from, to, slices, set, giveUp } = usePart(props, name)
  const asset = own(module.params, 'asset')
  const [low, high] = [Math.min(from, to), Math.max(from, to)],
    isTurned = from > to
  const fields = [
    [{ ...plain('slices', 'Slices', 0, 64), whole: true }, slices],
    [plain('from', 'From', 0, 1, '%'), from],
    [plain('to', 'To', 0, 1, '%'), to],
  ] as const
  return (
    <section className="editor" aria-label={`${description.label} of ${name}`} data-editor="recording">
      <div className="editor-head">
        {fields.map(([param, value]) => (
          <NumberText
            key={param.name}
            param={param}
            value={value}
            onSet={(next) => {
              set(param.name, next)
            }}
          />
        ))}
        <HowTo words="Drag the ends of what plays; arrows move them, Shift by milliseconds. Slices are equal parts of it, chosen by the slice input." />
      </div>
      <WaveMarks
        asset={typeof asset === 'string' && asset ? asset : undefined}
        marks={[
          { name: isTurned ? 'to' : 'from', label: isTurned ? 'to' : 'from', at: low },
          { name: isTurned ? 'from' : 'to', label: isTurned ? 'from' : 'to', at: high },
        ]}
        lines={Array.from(
          { length: Math.max(0, slices - 1) },
          (_, n) => low + ((high - low) * (n + 1)) / slices,
        )}
        head={`${module.id}.head`}
        onMove={(param, at, gesture) => {
          set(param, Math.round(1e5 * at) / 1e5, gesture)
        }}
        onGiveUp={giveUp}
      />
    </section>
  )
}
