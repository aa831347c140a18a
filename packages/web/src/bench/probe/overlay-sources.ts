/** Sounds that are laid over a slot: what it shows now, a snapshot of the patch, a recording from a file. */
import { faultText, type Patch } from '@ypsilon/core'
import type { Snapshot } from '@ypsilon/core/patch/types.ts'
import type { App } from '../../app/app.ts'
import { measureSnapshot } from '../../audio/offline.ts'
import { MOST_OVERLAYS, OUTPUT_TARGET, type SlotName } from '../../store/probe.ts'
import type { ProbeFeed } from './feed.ts'

const add = (app: App, slot: SlotName, id: string, name: string): void => {
  const { slots, change } = app.probe.getState()
  change(slot, { overlays: [...slots[slot].overlays, { id, name }].slice(-MOST_OVERLAYS) })
}

const freshId = (): string => `over ${crypto.randomUUID()}`

/** What the slot hears now stays, as a curve behind. */
export const holdNow = async (app: App, feed: ProbeFeed, slot: SlotName): Promise<void> => {
  const id = freshId(),
    held = app.probe.getState().slots[slot].overlays.filter(({ name }) => name.startsWith('held'))
  await feed.hold(slot, id)
  add(app, slot, id, `held ${held.length + 1}`)
}

export const layFile = async (app: App, feed: ProbeFeed, slot: SlotName, file: File): Promise<void> => {
  const { result } = await app.audio.readSound(new Uint8Array(await file.arrayBuffer()))
  if (!result.ok) {
    app.notifier.error(`${file.name}: ${faultText(result.fault)}`)
    return
  }
  const id = freshId()
  await feed.keep(id, result.sound)
  add(app, slot, id, file.name)
}

/** A snapshot of the patch, with its note or a test note, rendered and listened to where the slot looks. */
export const laySnapshot = async (
  app: App,
  feed: ProbeFeed,
  slot: SlotName,
  snapshot: Snapshot,
): Promise<void> => {
  const { patch } = app.document.getState(),
    probed = feed.probed(slot),
    isOutput = app.probe.getState().slots[slot].target === OUTPUT_TARGET
  if (!probed || (!isOutput && probed.tap === undefined)) {
    app.notifier.warning('A snapshot is listened to at outputs and cables, not at a value.')
    return
  }
  try {
    const { rate, channels } = await measureSnapshot(patch, {
      snapshot: snapshot.id,
      tap: probed.tap,
      assets: app.audio.soundsFor(patch),
      rate: app.engine.sampleRate,
    })
    const id = freshId()
    await feed.keep(id, {
      rate,
      channels: channels.map((channel) => channel.map((x) => probed.gain * x)),
    })
    add(app, slot, id, snapshot.name)
  } catch (error) {
    app.notifier.error(
      `${snapshot.name} could not be rendered: ${error instanceof Error ? error.message : String(error)}`,
    )
  }
}

const NONE: readonly Snapshot[] = []
/** Snapshots of a patch, in order; the same list as long as the patch has none. */
export const snapshotsOf = (patch: Patch): readonly Snapshot[] => patch.snapshots ?? NONE
