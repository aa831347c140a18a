/** Measures the answer of a slot's path whenever the patch or the path has changed, in a worker of its own. */
import { useEffect, useState } from 'react'
import { measurePath } from '../../audio/offline.ts'
import { useApp, useDocument } from '../../app/context.ts'
import type { ProbeSlot, SlotName } from '../../store/probe.ts'
import { type ProbeFeed, isMeasured } from './feed.ts'
import { pathEnd } from './paths.ts'

/** The patch rests for so long before it is measured. */
const REST_MS = 400
/** Seconds of an answer. */
const CLICK_SECONDS = 4

export type Measuring =
  { readonly kind: 'busy' | 'done' } | { readonly kind: 'fault'; readonly words: string }

export const useResponse = (feed: ProbeFeed, name: SlotName, slot: ProbeSlot): Measuring => {
  const { audio, engine } = useApp()
  const patch = useDocument((state) => state.patch)
  const [state, setState] = useState<Measuring>({ kind: 'done' })
  const { target, path, isFrozen } = slot,
    isWanted = isMeasured(slot) && !isFrozen,
    isStep = slot.settings.kind === 'impulse'
  useEffect(() => {
    if (!isWanted || target === undefined || path.from === undefined) return undefined
    const { from, excitation } = path
    const giveUp = new AbortController()
    const timer = setTimeout(() => {
      setState({ kind: 'busy' })
      const to = pathEnd(patch, target, feed.probed(name)?.tap)
      const measured =
        to === undefined
          ? Promise.reject(new Error('Nothing goes to the output yet.'))
          : measurePath(
              patch,
              {
                from,
                to,
                excitation,
                seconds: CLICK_SECONDS,
                sampleRate: engine.sampleRate,
                assets: audio.soundsFor(patch),
              },
              giveUp.signal,
            )
      measured
        .then(async ({ rate, channels, answer }) => {
          // A step is shown as it comes out; from all others the impulse is made.
          await feed.answer(name, { rate, channels: isStep && excitation === 'step' ? answer : channels })
          if (!giveUp.signal.aborted) setState({ kind: 'done' })
        })
        .catch((error: unknown) => {
          if (!giveUp.signal.aborted)
            setState({ kind: 'fault', words: error instanceof Error ? error.message : String(error) })
        })
    }, REST_MS)
    return () => {
      clearTimeout(timer)
      giveUp.abort()
    }
  }, [patch, target, path, isWanted, isStep, name, feed, audio, engine])
  return isWanted ? state : { kind: 'done' }
}
