/** The formula language for the text editor: colours, faults in place, words to be completed. All of it from the core's reader. */
import {
  autocompletion,
  type Completion,
  type CompletionContext,
  type CompletionResult,
} from '@codemirror/autocomplete'
import { type Diagnostic, linter } from '@codemirror/lint'
import { type Extension, RangeSetBuilder } from '@codemirror/state'
import { Decoration, type DecorationSet, EditorView, ViewPlugin, type ViewUpdate } from '@codemirror/view'
import { parseFormula } from '@ypsilon/core'
import type { FormulaUse } from '@ypsilon/core/formula/expression.ts'
import { CLOCKS, CONSTANTS, FUNCTIONS } from '@ypsilon/core/formula/language.ts'
import { tokenize } from '@ypsilon/core/formula/tokens.ts'

/** A name that may be written, and what it stands for. */
export interface FormulaName {
  readonly name: string
  readonly does: string
}

const marksOf = ({ state }: EditorView): DecorationSet => {
  const marks = new RangeSetBuilder<Decoration>()
  for (const { kind, start, end } of tokenize(state.doc.toString()))
    marks.add(start, end, Decoration.mark({ class: `formula-${kind}` }))
  return marks.finish()
}

const colours = ViewPlugin.fromClass(
  class {
    decorations: DecorationSet
    constructor(view: EditorView) {
      this.decorations = marksOf(view)
    }
    update({ docChanged, view }: ViewUpdate): void {
      if (docChanged) this.decorations = marksOf(view)
    }
  },
  { decorations: ({ decorations }) => decorations },
)

const faults = (use: FormulaUse): Extension =>
  linter(
    ({ state }): Diagnostic[] => {
      const { length } = state.doc
      return parseFormula(state.doc.toString(), use).errors.map(({ start, end, message }) => ({
        from: Math.min(start, length),
        to: Math.min(Math.max(end, start + 1), Math.max(length, start)),
        severity: 'error',
        message,
      }))
    },
    { delay: 120 },
  )

/** Names that the text itself assigns. */
const assigned = (text: string): readonly FormulaName[] =>
  parseFormula(text, 'module').names.map((name) => ({ name, does: 'assigned here' }))

/** Puts a function with its brackets, and the caret between them. */
const calling =
  (name: string): NonNullable<Completion['apply']> =>
  (view, _completion, from, to) => {
    const insert = `${name}()`
    view.dispatch({ changes: { from, to, insert }, selection: { anchor: from + insert.length - 1 } })
  }

const wordsFor = (names: readonly FormulaName[], text: string): readonly Completion[] => [
  ...names.map(({ name, does }): Completion => ({ label: name, detail: does, type: 'variable', boost: 2 })),
  ...assigned(text).map(({ name, does }): Completion => ({
    label: name,
    detail: does,
    type: 'variable',
    boost: 1,
  })),
  ...FUNCTIONS.map(({ name, arguments: count, does }): Completion => ({
    label: name,
    detail: does,
    type: 'function',
    apply: count > 0 ? calling(name) : `${name}()`,
  })),
  ...[...CONSTANTS.keys(), ...CLOCKS].map((name): Completion => ({ label: name, type: 'constant' })),
  { label: 'prev', detail: 'what a name held one sample before', type: 'function', apply: calling('prev') },
]

const completion = (names: () => readonly FormulaName[]): Extension =>
  autocompletion({
    icons: false,
    override: [
      (context: CompletionContext): CompletionResult | null => {
        const word = context.matchBefore(/(?:macro:)?[A-Za-z_][\w.]*/)
        if (!word && !context.explicit) return null
        return {
          from: word?.from ?? context.pos,
          options: [...wordsFor(names(), context.state.doc.toString())],
          validFor: /^[\w.:]*$/,
        }
      },
    ],
  })

export const formulaLanguage = (use: FormulaUse, names: () => readonly FormulaName[]): Extension => [
  colours,
  faults(use),
  completion(names),
]
