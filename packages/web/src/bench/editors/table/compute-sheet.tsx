/** A table from a formula: the language of the formula module, a is the place in the cycle, b the one in the table. */
import { errorText, parseFormula } from '@ypsilon/core'
import { type Frames, framesOf, FRAME_SIZE, MOST_FRAMES } from '@ypsilon/core/describe/waves.ts'
import { type KeyboardEvent, useState } from 'react'
import { useApp } from '../../../app/context.ts'
import { renderWaves } from '../../../audio/offline.ts'
import { Button } from '../../../ui/button.tsx'
import { Sheet } from '../../../ui/popover.tsx'

const FIRST = 'x = sin(tau * a) + b * sin(3 * tau * a) / 3'

interface ComputeProps {
  readonly count: number
  readonly onFrames: (frames: Frames, words: string) => Promise<void>
}

/** What is typed, and working it out. */
const useCompute = ({ count, onFrames }: ComputeProps) => {
  const app = useApp()
  const [text, setText] = useState(FIRST),
    [frames, setFrames] = useState(Math.min(MOST_FRAMES, Math.max(16, count))),
    [isBusy, setBusy] = useState(false)
  const compute = async (): Promise<void> => {
    setBusy(true)
    try {
      const samples = await renderWaves(text, frames, FRAME_SIZE)
      await onFrames(framesOf(samples, FRAME_SIZE), 'Compute a table')
    } catch (problem) {
      app.notifier.error(problem instanceof Error ? problem.message : String(problem))
    } finally {
      setBusy(false)
    }
  }
  return { text, setText, frames, setFrames, isBusy, compute }
}

/** Keys are typed; Escape closes the sheet. */
const typing = (event: KeyboardEvent): void => {
  if (event.key !== 'Escape') event.stopPropagation()
}

export const ComputeSheet = (props: ComputeProps) => {
  const { chart } = useApp()
  const { text, setText, frames, setFrames, isBusy, compute } = useCompute(props)
  const error = parseFormula(text, 'module').errors[0]
  return (
    <Sheet
      label="Compute the table"
      align="start"
      trigger={<Button look="small">Compute …</Button>}
      onClosed={(event) => {
        event.preventDefault()
        chart.focus()
      }}
    >
      <div className="flex flex-col gap-2 text-12">
        <textarea
          className="text-area mono h-20"
          aria-label="Formula of the table"
          aria-invalid={error !== undefined}
          spellCheck={false}
          value={text}
          onChange={(event) => {
            setText(event.target.value)
          }}
          onKeyDown={typing}
        />
        <p className={`m-0 ${error ? 'text-warn' : 'text-ink2'}`} role={error ? 'alert' : undefined}>
          {error ? errorText(error) : 'a goes from 0 to 1 over the cycle, b over the table; x is the wave.'}
        </p>
        <label className="flex items-center justify-between">
          <span className="text-ink2">Frames</span>
          <input
            className="text-field mono w-20 text-right"
            type="number"
            aria-label="Frames of the table"
            min={1}
            max={MOST_FRAMES}
            value={frames}
            onChange={(event) => {
              setFrames(Math.min(MOST_FRAMES, Math.max(1, Math.round(Number(event.target.value) || 1))))
            }}
            onKeyDown={typing}
          />
        </label>
        <Button look="main" disabled={error !== undefined || isBusy} onClick={() => void compute()}>
          {isBusy ? 'Computing …' : 'Compute'}
        </Button>
      </div>
    </Sheet>
  )
}
