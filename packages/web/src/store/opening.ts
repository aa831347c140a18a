/** Notes, for this tab, which document is on the bench and which was being opened when the page ended. */
import type { Notebook } from '../kept/database.ts'

/** What a tab has on its bench: a kept document, or one that nobody has edited yet. */
export type OnBench =
  | { readonly kind: 'document'; readonly id: string }
  | { readonly kind: 'demo'; readonly name: string }
  | { readonly kind: 'new' }

const BENCH = 'ypsilon-bench',
  OPENING = 'ypsilon-opening'

export class TabNotes {
  constructor(private readonly notebook: Notebook) {}

  get onBench(): OnBench | undefined {
    try {
      return JSON.parse(this.notebook.read(BENCH) ?? 'null') as OnBench | undefined
    } catch {
      return undefined
    }
  }
  set onBench(what: OnBench | undefined) {
    this.notebook.write(BENCH, JSON.stringify(what ?? null))
  }

  /** Name of a patch that the last visit did not get to show. */
  get brokeOff(): string | undefined {
    return this.notebook.read(OPENING) ?? undefined
  }
  begin(name: string): void {
    this.notebook.write(OPENING, name)
  }
  end(): void {
    this.notebook.erase(OPENING)
  }
}
