/** The notes of a scale as keys of one octave, with their names: what is let through is pressed, the root is marked. */
import { labelOf, moduleIn, noteName, own, setParam } from '@ypsilon/core'
import { fromRoot, scaleName, SCALES, SEMITONES, switchesOf } from '@ypsilon/core/describe/scales.ts'
import { type KeyboardEvent, useEffect, useRef } from 'react'
import { useApp, useDocument } from '../../app/context.ts'
import { Choice } from '../../ui/select.tsx'
import type { EditorProps } from './types.ts'

const BLACK: ReadonlySet<number> = new Set([1, 3, 6, 8, 10])
const WHITES = [0, 2, 4, 5, 7, 9, 11]
/** The octave that names are taken from; without its number. */
const MIDDLE = 60
const nameOf = (note: number): string => noteName(MIDDLE + note).replace(/-?\d+$/, '')

/** Where a key stands, in sevenths of the keyboard. */
const leftOf = (note: number): number =>
  BLACK.has(note) ? WHITES.findIndex((white) => white > note) : WHITES.indexOf(note)

interface KeyProps {
  readonly note: number
  readonly isOn: boolean
  readonly isRoot: boolean
  readonly semitones: number
  readonly onToggle: () => void
}

const Key = ({ note, isOn, isRoot, semitones, onToggle }: KeyProps) => (
  <button
    type="button"
    className="scale-key nokey"
    data-note={note}
    data-black={BLACK.has(note)}
    aria-pressed={isOn}
    aria-label={`${nameOf(note)}, ${isRoot ? 'the root' : `${semitones} semitones above the root`}`}
    style={{ left: `${(100 * leftOf(note)) / 7}%` }}
    onClick={onToggle}
  >
    <span className="scale-name">{nameOf(note)}</span>
    {isRoot && <span className="scale-root">root</span>}
  </button>
)

/** Marks the key of the note that comes out by now. */
const useSounding = (id: string) => {
  const { frames } = useApp()
  const keys = useRef<HTMLDivElement>(null)
  useEffect(() => {
    let shown: Element | null = null,
      before = -1
    return frames.paint((ink) => {
      const last = ink.picture(`${id}.out`)?.last
      const note =
        last === undefined ? -1 : ((Math.round(SEMITONES * last) % SEMITONES) + SEMITONES) % SEMITONES
      if (note === before) return
      before = note
      const key = keys.current?.querySelector(`[data-note="${note}"]`) ?? null
      shown?.removeAttribute('data-sounding')
      key?.setAttribute('data-sounding', '')
      shown = key
    })
  }, [frames, id])
  return keys
}

const ROOTS = Array.from({ length: SEMITONES }, (_, n) => ({ value: String(n), label: nameOf(n) }))

/** The scale of a module, and how it is written. */
const useScale = ({ module, description }: EditorProps) => {
  const app = useApp()
  const name = useDocument(({ patch }) => labelOf(patch, module.id))
  const data = description.data!.find(({ kind }) => kind === 'booleans')!
  const scale = (own(module.data, data.name) ?? data.default) as readonly unknown[],
    root = Number(own(module.params, 'root') ?? 0)
  /** Other notes, and another root where one is given: one step. */
  const write = (words: string, next: readonly boolean[], to = root): void => {
    app.document.getState().change(words, (draft) => {
      if (to !== root) setParam(draft, module.id, 'root', to)
      const item = moduleIn(draft, module.id)
      if (item && next !== scale) item.data = { ...item.data, [data.name]: [...next] }
    })
  }
  const isOn = (semitones: number): boolean => scale[semitones] === true || scale[semitones] === 1
  return { app, name, scale, root, isOn, write }
}
type Scale = ReturnType<typeof useScale>

const Head = ({ app: { chart }, name, scale, root, write }: Scale) => {
  const known = scaleName(scale)
  return (
    <div className="editor-head">
      <span className="text-ink2">Root</span>
      <Choice
        label="Root"
        value={String(root)}
        options={ROOTS}
        onPointed={chart.focus}
        onChange={(value) => {
          write(`Set the root of ${name}`, scale as readonly boolean[], Number(value))
        }}
      />
      <span className="text-ink2">Scale</span>
      <Choice
        label="Scale"
        value={known ?? ''}
        options={[
          ...(known === undefined ? [{ value: '', label: 'its own' }] : []),
          ...[...SCALES.keys()].map((value) => ({ value })),
        ]}
        onPointed={chart.focus}
        onChange={(value) => {
          const semitones = SCALES.get(value)
          if (semitones) write(`Set the scale of ${name} to ${value}`, switchesOf(semitones))
        }}
      />
      <span className="text-ink2">Same notes from</span>
      <Choice
        label="Same notes from another root"
        value={String(root)}
        options={ROOTS}
        onPointed={chart.focus}
        onChange={(value) => {
          const to = Number(value)
          write(`Count the scale of ${name} from ${nameOf(to)}`, fromRoot(scale, to - root), to)
        }}
      />
    </div>
  )
}

/** Arrows go from key to key. */
const onKeyDown = (event: KeyboardEvent<HTMLDivElement>): void => {
  const step = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0
  const at = Number((event.target as HTMLElement).dataset['note'])
  if (step === 0 || Number.isNaN(at)) return
  event.preventDefault()
  event.stopPropagation()
  const next = (at + step + SEMITONES) % SEMITONES
  event.currentTarget.querySelector<HTMLElement>(`[data-note="${next}"]`)?.focus()
}

export const ScaleEditor = (props: EditorProps) => {
  const scale = useScale(props),
    { name, root, isOn, write } = scale
  const keys = useSounding(props.module.id)
  return (
    <section className="editor" aria-label={`${props.description.label} of ${name}`} data-editor="scale">
      <Head {...scale} />
      <div
        ref={keys}
        className="scale-keys"
        role="group"
        aria-label={`Notes of ${name}`}
        onKeyDown={onKeyDown}
      >
        {[...WHITES, ...BLACK].map((note) => {
          const semitones = (note - root + SEMITONES) % SEMITONES
          return (
            <Key
              key={note}
              note={note}
              isOn={isOn(semitones)}
              isRoot={semitones === 0}
              semitones={semitones}
              onToggle={() => {
                const next = Array.from({ length: SEMITONES }, (_, n) => isOn(n) !== (n === semitones))
                write(`${isOn(semitones) ? 'Leave out' : 'Let through'} ${nameOf(note)} in ${name}`, next)
              }}
            />
          )
        })}
      </div>
    </section>
  )
}
