/** A formula in the dock: its text, and beside it what every name holds now. */
import { labelOf, own, parseFormula } from '@ypsilon/core'
import { evaluated } from '@ypsilon/core/formula/evaluate.ts'
import { CLOCKS, MODULE_INPUTS, OUTPUTS } from '@ypsilon/core/formula/language.ts'
import { useEffect, useMemo, useRef, useState } from 'react'
import { useApp, useDocument } from '../../../app/context.ts'
import { setData } from '../../data-text.ts'
import { HowTo } from '../how-to.tsx'
import type { EditorProps } from '../types.ts'
import { FormulaField } from './formula-field.tsx'
import { givenNow, namesOfModule, signalsOfModule } from './formula-names.ts'

/** Frames between two times that values are written. */
const TURN = 6

const valueText = (value: number): string => value.toPrecision(4).replace('-', '−')

/** Names in the order they are read: what comes in, what is assigned. */
const shownNames = (text: string): readonly string[] => {
  const { names, tokens } = parseFormula(text, 'module')
  const used = new Set(tokens.filter(({ kind }) => kind === 'name').map((token) => token.text))
  const inputs = [...MODULE_INPUTS, ...CLOCKS].filter((name) => used.has(name))
  return [...new Set([...inputs, ...names, ...OUTPUTS])]
}

interface ValuesProps extends Pick<EditorProps, 'module'> {
  /** As it is typed by now. */
  readonly text: string
}

/** What every name holds now, as far as it can be told between two pictures. */
const Values = ({ module, text }: ValuesProps) => {
  const { frames, engine, probe } = useApp()
  const patch = useDocument((state) => state.patch)
  const list = useRef<HTMLDListElement>(null)
  const names = useMemo(() => shownNames(text), [text])
  useEffect(() => {
    probe.getState().want(`formula ${module.id}`, signalsOfModule(patch, module))
    return () => {
      probe.getState().want(`formula ${module.id}`, [])
    }
  }, [probe, patch, module])
  useEffect(() => {
    const parsed = parseFormula(text, 'module')
    let turn = 0,
      before: ReadonlyMap<string, number> = new Map()
    return frames.paint((ink) => {
      turn = (turn + 1) % TURN
      if (turn !== 1 || !list.current) return
      const clocks = new Map([
        ['t', (engine.audioContext?.currentTime ?? 0) as number],
        ['sr', engine.sampleRate],
        ['voice', 0],
      ])
      const given = (name: string): number | undefined =>
        clocks.get(name) ?? givenNow(ink, patch, module, name)
      const values = evaluated(parsed, given, before)
      before = values
      names.forEach((name, n) => {
        const cell = list.current!.querySelectorAll('dd[data-name]')[n]
        // What comes out is told by the engine itself.
        const heard = OUTPUTS.includes(name) ? ink.picture(`${module.id}.${name}`)?.last : undefined
        const value = heard ?? values.get(name) ?? given(name)
        const words = value === undefined ? '–' : valueText(value)
        if (cell && cell.textContent !== words) cell.textContent = words
      })
    })
  }, [frames, engine, patch, module, names, text])
  const known = namesOfModule(patch, module)
  return (
    <dl ref={list} className="formula-values mono" aria-label="What its names hold now" data-formula-values>
      {names.map((name) => (
        <div key={name}>
          <dt>{name}</dt>
          <dd data-name={name}>–</dd>
          <dd className="formula-does truncate font-sans text-ink2">
            {known.find((each) => each.name === name)?.does ?? ''}
          </dd>
        </div>
      ))}
    </dl>
  )
}

export const FormulaEditor = ({ module, description }: EditorProps) => {
  const app = useApp()
  const patch = useDocument((state) => state.patch),
    name = labelOf(patch, module.id)
  const data = description.data!.find(({ kind }) => kind === 'text')!,
    value = String(own(module.data, data.name) ?? data.default)
  const [text, setText] = useState(value)
  const names = useMemo(() => namesOfModule(patch, module), [patch, module])
  return (
    <section className="editor" aria-label={`${description.label} of ${name}`} data-editor="formula">
      <div className="flex min-h-0 flex-1 gap-4 px-3 py-2">
        <div className="min-h-0 min-w-0 flex-[3] overflow-auto">
          <FormulaField
            label={`Formula of ${name}`}
            value={value}
            use="module"
            names={names}
            onText={setText}
            onCommit={(next) => {
              setData(app, module.id, data.name, next, { words: `Write the formula of ${name}` })
            }}
          />
        </div>
        <Values module={module} text={text} />
        <HowTo words="Statements name = …; apart by ; or lines. x and y come out, a to d come in, p1 to p4 are fields. Ctrl+Space completes. prev(name) is what a name held one sample before." />
      </div>
    </section>
  )
}
