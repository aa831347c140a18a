import { emptyPatch, oneLine } from '@ypsilon/core'
import { Component, type ReactNode } from 'react'
import { exportPatch, exportText } from './files/export.ts'
import { putAside, useDocument } from './store/document.ts'

interface Props {
  /** What stands inside, in words: "The bench". */
  readonly what: string
  readonly children: ReactNode
}
interface State {
  readonly error: unknown
}

/** Catches what goes wrong while something is drawn: the patch is safe, and can be taken out or put aside. */
export class Boundary extends Component<Props, State> {
  override state: State = { error: undefined }

  static getDerivedStateFromError(error: unknown): Partial<State> {
    return { error: error ?? new Error('something') }
  }

  private readonly again = (): void => {
    this.setState({ error: undefined })
  }

  private readonly aside = async (): Promise<void> => {
    // What the browser cannot keep leaves as a file.
    if (!(await putAside())) this.takeOut()
    await useDocument.getState().open(emptyPatch())
    this.setState({ error: undefined })
  }

  private readonly takeOut = (): void => {
    const { patch } = useDocument.getState()
    exportPatch(patch).catch(() => {
      exportText('patch', patch)
    })
  }

  override render(): ReactNode {
    const { error } = this.state
    if (error === undefined) return this.props.children
    const words = error instanceof Error ? error.message : String(error)
    return (
      <main className="flex h-full items-center justify-center p-8" role="alert">
        <div className="max-w-[520px] rounded-[3px] border border-rule bg-card p-5">
          <h1 className="mb-2 text-[17px] font-semibold">{this.props.what} cannot be shown</h1>
          <p>
            Something in this patch could not be drawn. The patch itself is safe. Take it out as a file, or
            put it aside and go on with an empty bench.
          </p>
          <p className="mono my-3 break-words text-[12px] text-ink2">{oneLine(words)}</p>
          <div className="flex flex-wrap gap-2">
            <button type="button" className="btn main" onClick={() => void this.aside()}>
              Put this patch aside
            </button>
            <button type="button" className="btn" onClick={this.takeOut}>
              Export it
            </button>
            <button type="button" className="btn" onClick={this.again}>
              Try again
            </button>
            <button
              type="button"
              className="btn"
              onClick={() => {
                window.location.reload()
              }}
            >
              Reload
            </button>
          </div>
        </div>
      </main>
    )
  }
}
