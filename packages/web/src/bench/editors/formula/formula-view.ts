/** The text editor of a formula: taken with Ctrl+Enter or when it is left, given up by Escape. */
import {
  closeBrackets,
  closeBracketsKeymap,
  completionKeymap,
  completionStatus,
} from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands'
import { bracketMatching } from '@codemirror/language'
import { EditorState, type Extension } from '@codemirror/state'
import { EditorView, type KeyBinding, keymap } from '@codemirror/view'

export interface FormulaViewParts {
  readonly label: string
  readonly value: string
  readonly language: Extension
  /** With every letter. */
  readonly onText: (text: string) => void
  /** It is left, with what stands there. */
  readonly onLeave: (text: string) => void
  readonly onGiveUp: () => void
}

/** Puts another text in place of what stands there. */
export const putText = (view: EditorView, text: string): void => {
  if (view.state.doc.toString() !== text)
    view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text } })
}

const endKeys = (onGiveUp: () => void): readonly KeyBinding[] => [
  {
    key: 'Mod-Enter',
    run: ({ contentDOM }) => {
      contentDOM.blur()
      return true
    },
  },
  {
    key: 'Escape',
    run: ({ state, contentDOM }) => {
      // The first one closes the list of words.
      if (completionStatus(state) !== null) return false
      onGiveUp()
      contentDOM.blur()
      return true
    },
  },
]

export const openFormulaView = (parent: HTMLElement, parts: FormulaViewParts): EditorView => {
  const { label, value, language, onText, onLeave, onGiveUp } = parts
  return new EditorView({
    parent,
    state: EditorState.create({
      doc: value,
      extensions: [
        history(),
        bracketMatching(),
        closeBrackets(),
        keymap.of([...endKeys(onGiveUp)]),
        keymap.of([...closeBracketsKeymap, ...completionKeymap, ...defaultKeymap, ...historyKeymap]),
        EditorView.lineWrapping,
        EditorView.contentAttributes.of({ 'aria-label': label, spellcheck: 'false' }),
        EditorView.updateListener.of(({ docChanged, state }) => {
          if (docChanged) onText(state.doc.toString())
        }),
        EditorView.domEventHandlers({
          blur: (_event, view) => {
            onLeave(view.state.doc.toString())
          },
        }),
        language,
      ],
    }),
  })
}
