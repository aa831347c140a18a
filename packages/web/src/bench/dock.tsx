import { useSession } from '../store/session.ts'
import { Keys } from './keys.tsx'
import { Probe } from './probe.tsx'

const TABS = [
  ['probe', 'Probe'],
  ['keys', 'Keys'],
] as const

/** Bottom: measuring and playing. */
export const Dock = () => {
  const tab = useSession((state) => state.dockTab)
  const set = useSession((state) => state.set)
  return (
    <section className="flex h-[184px] shrink-0 flex-col border-t border-rule bg-card" aria-label="Dock">
      <div role="tablist" className="flex h-7 shrink-0 gap-4 border-b border-rule px-3">
        {TABS.map(([name, label]) => (
          <button
            key={name}
            type="button"
            role="tab"
            aria-selected={tab === name}
            className="tab border-0 bg-transparent px-1 text-ink2"
            onClick={() => {
              set({ dockTab: name })
            }}
          >
            {label}
          </button>
        ))}
      </div>
      <div className="min-h-0 flex-1" role="tabpanel">
        {tab === 'probe' ? <Probe /> : <Keys />}
      </div>
    </section>
  )
}
