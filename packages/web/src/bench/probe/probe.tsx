/** The probe in the dock: up to four signals side by side, or two of them against each other. */
import { useEffect } from 'react'
import { useApp, useProbe } from '../../app/context.ts'
import { openSlots, OUTPUT_TARGET, SLOT_NAMES } from '../../store/probe.ts'
import { Button } from '../../ui/button.tsx'
import { Tip } from '../../ui/tooltip.tsx'
import { CompareView, pairOf } from './compare-view.tsx'
import type { ProbeFeed } from './feed.ts'
import { feedOf } from './feeds.ts'
import { SlotView } from './slot.tsx'

const useFeed = (): ProbeFeed => {
  const app = useApp()
  const feed = feedOf(app)
  useEffect(() => {
    const stop = feed.start(),
      stopSteps = app.frames.paint(() => {
        feed.step(performance.now())
      })
    return () => {
      stopSteps()
      stop()
    }
  }, [app, feed])
  return feed
}

/** More slots, and comparing. */
const Tools = () => {
  const { probe } = useApp()
  const slots = useProbe((state) => state.slots),
    isComparing = useProbe((state) => state.compared !== undefined)
  const open = openSlots(slots),
    free = SLOT_NAMES.find((name) => slots[name].target === undefined)
  return (
    <div className="probe-tools">
      <Tip words="Looks at the output in one more slot. Shift-click an output, or drag it here, to look at it.">
        <Button
          look="small"
          disabled={free === undefined}
          onClick={() => {
            if (free) probe.getState().pin(OUTPUT_TARGET, free)
          }}
        >
          {free === undefined ? 'All open' : `Slot ${free}`}
        </Button>
      </Tip>
      <Tip words="The first two slots against each other, with their difference.">
        <Button
          look="small"
          aria-pressed={isComparing}
          disabled={open.length < 2}
          onClick={() => {
            const { compare, set } = probe.getState(),
              pair = pairOf(open)
            if (isComparing || !pair) compare(undefined)
            else {
              // Of two things of different kinds there is no difference.
              set(pair[1], { kind: slots[pair[0]].settings.kind })
              compare(pair)
            }
          }}
        >
          Compare
        </Button>
      </Tip>
    </div>
  )
}

export const Probe = () => {
  const feed = useFeed()
  const slots = useProbe((state) => state.slots),
    compared = useProbe((state) => state.compared)
  const open = openSlots(slots),
    alone = open.filter((name) => !compared?.includes(name))
  return (
    <div className="probe" data-probe>
      {compared && <CompareView feed={feed} pair={compared} />}
      {alone.map((name) => (
        <SlotView
          key={name}
          name={name}
          slot={slots[name]}
          feed={feed}
          isWide={open.length <= 2 && !compared}
        />
      ))}
      {open.length === 0 && (
        <p className="m-auto text-ink2">Shift-click an output to look at it, or drag it here.</p>
      )}
      <Tools />
    </div>
  )
}
