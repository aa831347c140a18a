/** The steps of the patch, those made and those taken back: each a button that goes there. */
import { useDocument } from '../app/context.ts'
import { Button } from '../ui/button.tsx'
import { Empty } from '../ui/panel.tsx'
import { useState } from 'react'

/** Shown before the rest is asked for. */
const FIRST = 12

interface StepProps {
  readonly words: string
  /** Where it goes: how many steps are made then. */
  readonly count: number
  readonly now: number
}

const Step = ({ words, count, now }: StepProps) => {
  const goToStep = useDocument((state) => state.goToStep)
  return (
    <li>
      <button
        type="button"
        className={`history-step ${count > now ? 'text-ink2 italic' : ''}`}
        aria-current={count === now ? 'step' : undefined}
        onClick={() => {
          goToStep(count)
        }}
      >
        {words}
      </button>
    </li>
  )
}

export const History = () => {
  const past = useDocument((state) => state.history.past),
    future = useDocument((state) => state.history.future)
  const [isWhole, setWhole] = useState(false)
  if (past.length + future.length === 0) return <Empty>Each step appears here and can be undone.</Empty>
  const now = past.length
  const steps = [
    ...future.map((step, n) => ({ words: step.name, count: now + n + 1 })).reverse(),
    ...past.map((step, n) => ({ words: step.name, count: n + 1 })).reverse(),
    { words: 'As it was opened', count: 0 },
  ]
  // Those around now come first.
  const from = isWhole ? 0 : Math.max(0, future.length - FIRST / 2)
  const shown = isWhole ? steps : steps.slice(from, from + FIRST)
  return (
    <>
      <ol className="m-0 list-none p-0" aria-label="Steps, the latest first">
        {shown.map(({ words, count }) => (
          <Step key={count} words={words} count={count} now={now} />
        ))}
      </ol>
      {shown.length < steps.length && (
        <Button
          look="quiet"
          className="mt-1"
          onClick={() => {
            setWhole(true)
          }}
        >
          All {steps.length - 1} steps
        </Button>
      )}
    </>
  )
}
