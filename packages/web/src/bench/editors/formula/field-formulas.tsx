/** Fields of a module that follow a formula: written with completion from the patch, and what its names hold now. */
import {
  descriptionOf,
  own,
  parseFormula,
  type Patch,
  type PatchModule,
  printNumber,
  setParam,
  splitTarget,
  patchIndex,
} from '@ypsilon/core'
import { useEffect, useMemo, useRef } from 'react'
import { useApp, useDocument } from '../../../app/context.ts'
import type { Ink } from '../../frames.ts'
import { FormulaField } from './formula-field.tsx'
import { namesOfPatch } from './formula-names.ts'

/** Frames between two times that values are written. */
const TURN = 6

/** A signal that tells what a reference holds: an output, or a parameter as it is heard. */
const signalOf = (patch: Patch, target: string): string => {
  const [id = '', name = ''] = splitTarget(target) ?? []
  const module = patchIndex(patch).module.get(id)
  const isOutput = module && descriptionOf(module)?.outputs.some((port) => port.name === name)
  return isOutput ? target : `>${target}`
}

/** What a reference holds now; of a parameter that nothing moves what is set. */
const heldNow = (ink: Ink, patch: Patch, target: string): number | undefined => {
  const heard = ink.picture(signalOf(patch, target))?.last
  if (heard !== undefined) return heard
  const macro = patch.macros?.find(({ id }) => `macro:${id}` === target)
  if (macro) return macro.value
  const [id = '', name = ''] = splitTarget(target) ?? []
  const value = own(patchIndex(patch).module.get(id)?.params, name)
  return typeof value === 'number' ? value : undefined
}

interface OneProps {
  readonly module: PatchModule
  readonly patch: Patch
  readonly param: string
}

const One = ({ module, patch, param }: OneProps) => {
  const { document, frames } = useApp()
  const list = useRef<HTMLDListElement>(null)
  const known = descriptionOf(module)!.params.find(({ name }) => name === param)!,
    text = String(own(module.params, param)).replace(/^=\s*/, '')
  const names = useMemo(() => namesOfPatch(patch), [patch])
  const targets = useMemo(
    () => [...new Set(parseFormula(text, 'field').references.map(({ target }) => target))],
    [text],
  )
  useEffect(() => {
    let turn = 0
    return frames.paint((ink) => {
      turn = (turn + 1) % TURN
      if (turn !== 1 || !list.current) return
      const cells = list.current.querySelectorAll('dd'),
        now = ink.picture(`>${module.id}.${param}`)?.last
      const words = [
        now === undefined || known.kind !== 'number' ? '–' : printNumber(known, now),
        ...targets.map((target) => heldNow(ink, patch, target)?.toPrecision(4).replace('-', '−') ?? '–'),
      ]
      words.forEach((word, n) => {
        if (cells[n] && cells[n].textContent !== word) cells[n].textContent = word
      })
    })
  }, [frames, module.id, param, known, targets, patch])
  return (
    <div className="mb-2" data-field-formula={param}>
      <div className="text-12 text-ink2">{known.label}</div>
      <FormulaField
        label={`Formula of ${known.label.toLowerCase()}`}
        value={text}
        use="field"
        names={names}
        onCommit={(next) => {
          document.getState().change(`Write the formula of ${known.label.toLowerCase()}`, (draft) => {
            setParam(draft, module.id, param, `= ${next}`)
          })
        }}
      />
      <dl ref={list} className="formula-values mono" aria-label="What its names hold now">
        {[param, ...targets].map((name) => (
          <div key={name}>
            <dt className="formula-target truncate">{name}</dt>
            <dd>–</dd>
          </div>
        ))}
      </dl>
    </div>
  )
}

interface FieldFormulasProps {
  readonly module: PatchModule
  /** Fields that hold a formula. */
  readonly params: readonly string[]
}

export const FieldFormulas = ({ module, params }: FieldFormulasProps) => {
  const { probe } = useApp()
  const patch = useDocument((state) => state.patch)
  const wanted = useMemo(
    () =>
      params.flatMap((param) => [
        `>${module.id}.${param}`,
        ...parseFormula(String(own(module.params, param)).replace(/^=\s*/, ''), 'field').references.map(
          ({ target }) => signalOf(patch, target),
        ),
      ]),
    [patch, module, params],
  )
  useEffect(() => {
    const who = `fields ${module.id}`
    probe.getState().want(who, wanted)
    return () => {
      probe.getState().want(who, [])
    }
  }, [probe, wanted, module.id])
  return (
    <section className="border-b border-rule px-3 py-2" aria-label="Formulas of fields">
      {params.map((param) => (
        <One key={param} module={module} patch={patch} param={param} />
      ))}
    </section>
  )
}
