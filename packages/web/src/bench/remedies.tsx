/** What a finding offers: each a button, each one step. */
import type { Finding, Remedy } from '@ypsilon/core'
import { useApp } from '../app/context.ts'
import { Button } from '../ui/button.tsx'

interface RemediesProps {
  readonly finding: Finding
}

export const Remedies = ({ finding: { remedies } }: RemediesProps) => {
  const { document, workspace } = useApp()
  const help = ({ label, apply, ask }: Remedy): void => {
    if (ask) workspace.getState().connectFrom(ask)
    if (apply) document.getState().change(label, apply)
  }
  return (
    <span className="flex flex-wrap gap-1.5">
      {remedies.map((remedy) => (
        <Button
          key={remedy.label}
          look="small"
          onClick={() => {
            help(remedy)
          }}
        >
          {remedy.label}
        </Button>
      ))}
    </span>
  )
}
