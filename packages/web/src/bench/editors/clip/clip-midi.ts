/** Clips from MIDI files, and as such. */
import { faultText } from '@ypsilon/core'
import { barsOf, clipOfEvents, eventsOfClip } from '@ypsilon/core/describe/clip-events.ts'
import { writeMidiFile } from '@ypsilon/core/formats/midi.ts'
import { notesInBeats } from '@ypsilon/core/formats/midi-beats.ts'
import { moduleIn, setParam } from '@ypsilon/core'
import type { ClipParts } from './clip-hand.ts'

/** Beats of what was read count as seconds at this tempo. */
const BEATS_AS_SECONDS = 60

/** Puts the notes of a file in place of the clip, with as many bars as they take: one step. */
export const readClip = async (parts: ClipParts, file: File, mostBars: number): Promise<void> => {
  const { app, id, data, choose, name } = parts
  const read = notesInBeats(new Uint8Array(await file.arrayBuffer()))
  if (!read.ok) {
    app.notifier.error(`${file.name}: ${read.faults.map(faultText).join('\n')}`)
    return
  }
  const clip = clipOfEvents(read.value, BEATS_AS_SECONDS)
  if (clip.length === 0) {
    app.notifier.warning(`${file.name} holds no notes; the clip stays as it is.`)
    return
  }
  const bars = barsOf(clip)
  app.document.getState().change(`Read ${file.name} into ${name}`, (draft) => {
    const module = moduleIn(draft, id)
    if (!module) return
    module.data = { ...module.data, [data]: [...clip] }
    setParam(draft, id, 'bars', Math.min(mostBars, bars))
  })
  choose(new Set())
  if (bars > mostBars)
    app.notifier.warning(`${file.name} has ${bars} bars; the first ${mostBars} of them play.`)
}

/** Hands the clip to the browser's downloads, at the patch's tempo. */
export const saveClip = ({ app, clip, name }: ClipParts): void => {
  const { patch } = app.document.getState(),
    tempo = patch.tempo ?? 120
  const { bytes } = writeMidiFile({ header: { tempo }, events: eventsOfClip(clip, tempo) })
  app.download(`${patch.name} - ${name}.mid`, new Blob([new Uint8Array(bytes)], { type: 'audio/midi' }))
}
