import { oneLine } from '@ypsilon/core'
import { Component, type ReactNode } from 'react'
import { exportPatch, exportText } from '../files/export.ts'
import { Button } from '../ui/button.tsx'
import { AppContext } from './context.ts'

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
  static override contextType = AppContext
  declare context: React.ContextType<typeof AppContext>
  override state: State = { error: undefined }

  static getDerivedStateFromError(error: unknown): Partial<State> {
    return { error: error ?? new Error('something') }
  }

  private readonly again = (): void => {
    this.setState({ error: undefined })
  }

  private readonly aside = async (): Promise<void> => {
    // What the browser cannot keep leaves as a file.
    if (!(await this.context?.desk.putAside())) this.takeOut()
    await this.context?.desk.openNew()
    this.setState({ error: undefined })
  }

  private readonly takeOut = (): void => {
    const { context } = this
    if (!context) return
    const { patch } = context.document.getState()
    exportPatch(context, patch).catch(() => {
      exportText('patch', patch)
    })
  }

  override render(): ReactNode {
    const { error } = this.state
    if (error === undefined) return this.props.children
    const words = error instanceof Error ? error.message : String(error)
    return (
      <main className="flex h-full items-center justify-center p-8" role="alert">
        <div className="max-w-[520px] rounded-3 border border-rule bg-card p-5">
          <h1 className="mb-2 text-15 font-semibold">{this.props.what} cannot be shown</h1>
          <p>
            Something in this patch could not be drawn. The patch itself is safe. Take it out as a file, or
            put it aside and go on with an empty bench.
          </p>
          <p className="mono my-3 break-words text-12 text-ink2">{oneLine(words)}</p>
          <div className="flex flex-wrap gap-2">
            <Button look="main" onClick={() => void this.aside()}>
              Put this patch aside
            </Button>
            <Button onClick={this.takeOut}>Export it</Button>
            <Button onClick={this.again}>Try again</Button>
            <Button
              onClick={() => {
                window.location.reload()
              }}
            >
              Reload
            </Button>
          </div>
        </div>
      </main>
    )
  }
}
