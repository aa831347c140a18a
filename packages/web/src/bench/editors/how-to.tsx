/** What hands and keys do in an editor, at a small mark. */
import { Tip } from '../../ui/tooltip.tsx'

export const HowTo = ({ words }: { readonly words: string }) => (
  <Tip words={words}>
    <span className="ml-auto cursor-help text-ink2" tabIndex={0} role="note" aria-label="How to draw">
      ?
    </span>
  </Tip>
)
