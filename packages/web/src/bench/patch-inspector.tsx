import { adviseOn, type Advice, type Patch } from '@ypsilon/core'
import { lazy, Suspense, useMemo } from 'react'
import { CommandButton } from '../app/command-button.tsx'
import { useApp, useDocument } from '../app/context.ts'
import { Empty, Section } from '../ui/panel.tsx'
import { newGesture } from './fields/types.ts'
import { Remedies } from './remedies.tsx'

const Notes = ({ patch }: { readonly patch: Patch }) => {
  const change = useDocument((state) => state.change)
  return (
    <Section title="Notes">
      <textarea
        className="text-area h-16"
        aria-label="Notes about the patch"
        placeholder="What it is for, how to play it"
        value={patch.description ?? ''}
        onKeyDown={(event) => {
          event.stopPropagation()
        }}
        onFocus={(event) => {
          event.currentTarget.dataset['gesture'] = newGesture('notes')
        }}
        onChange={(event) => {
          change(
            'Write notes',
            (draft) => {
              draft.description = event.target.value
            },
            event.target.dataset['gesture'],
          )
        }}
      />
    </Section>
  )
}

interface ChecksProps {
  readonly patch: Patch
  readonly advice: Advice | undefined
}

const Checks = ({ patch, advice }: ChecksProps) => {
  const { workspace } = useApp()
  const checks = [...(advice?.silent ?? []), ...(advice?.unconnected ?? []), ...(advice?.hints ?? [])]
  if (patch.modules.length === 0) return <Empty>Nothing to check yet.</Empty>
  if (checks.length === 0) return <Empty>Every module leads to an output.</Empty>
  return (
    <ul className="m-0 list-none p-0">
      {checks.map((finding) => (
        <li key={`${finding.place}${finding.message}`} className="py-0.5">
          <button
            type="button"
            className="btn-quiet text-left"
            onClick={() => {
              workspace.getState().select([finding.place.split('.')[0]!])
            }}
          >
            <span className="mono">{finding.place}</span> <span className="text-ink2">{finding.message}</span>
          </button>
          <Remedies finding={finding} />
        </li>
      ))}
    </ul>
  )
}

const Loops = ({ advice }: { readonly advice: Advice }) => (
  <>
    {advice.loops.length > 0 && (
      <ul className="m-0 mt-1 list-none p-0">
        {advice.loops.map((loop) => (
          <li key={loop.modules.join()} className="py-0.5">
            Loop <span className="mono">{loop.modules.join(' → ')}</span>{' '}
            <span className="text-ink2">{loop.delay}</span>
          </li>
        ))}
      </ul>
    )}
    <p className="mono mt-1.5 text-ink2">
      {advice.voices} {advice.voices === 1 ? 'voice' : 'voices'}
    </p>
  </>
)

/** Loaded when it is first seen. */
const History = lazy(async () => ({ default: (await import('./history.tsx')).History }))

/** The patch itself: notes, checks, history. */
export const PatchInspector = ({ patch }: { readonly patch: Patch }) => {
  const { engine } = useApp()
  const advice = useMemo(() => {
    const result = engine.compiled(patch)
    return result.ok ? adviseOn(patch, result.plan) : undefined
  }, [engine, patch])
  return (
    <>
      <header className="flex h-9 items-center border-b border-rule px-3">
        <h2 className="panel-title">Patch</h2>
        <span className="mono ml-auto text-ink2">
          {patch.modules.length} modules · {patch.cables.length} cables
        </span>
      </header>
      <Notes patch={patch} />
      <Section title="Checks">
        <Checks patch={patch} advice={advice} />
        {patch.modules.length > 0 && (
          <div className="my-1">
            <CommandButton command="why-silent" look="small" />
          </div>
        )}
        {advice && <Loops advice={advice} />}
      </Section>
      <Section title="History">
        <Suspense>
          <History />
        </Suspense>
      </Section>
    </>
  )
}
