/** What is done to a table as a whole. */
import {
  type Frames,
  framesOf,
  MOST_FRAMES,
  normalised,
  smoothedFrames,
  sortedFrames,
  stretchedFrames,
} from '@ypsilon/core/describe/waves.ts'
import { faultText } from '@ypsilon/core'
import { frameSizeOf } from '@ypsilon/core/modules/sources/wavetable/tables.ts'
import { useApp } from '../../../app/context.ts'
import { Button } from '../../../ui/button.tsx'
import { FilePick, WAV_FILES } from '../../../ui/file-pick.tsx'
import { Choice } from '../../../ui/select.tsx'
import { HowTo } from '../how-to.tsx'
import { NumberText, plain } from '../number-text.tsx'
import { ComputeSheet } from './compute-sheet.tsx'

export interface TableActs {
  readonly frames: Frames
  /** The frame that is drawn, from 0. */
  readonly selected: number
  /** The other end of what is made smooth. */
  readonly anchor: number
  readonly select: (index: number) => void
  readonly onFrames: (frames: Frames, words: string) => Promise<void>
}

const CHANGES: ReadonlyMap<string, (acts: TableActs) => Frames> = new Map<
  string,
  (acts: TableActs) => Frames
>([
  ['sort, the dark ones first', ({ frames }) => sortedFrames(frames)],
  ['backwards', ({ frames }) => [...frames].reverse()],
  [
    'smooth from the last one chosen',
    ({ frames, selected, anchor }) => smoothedFrames(frames, anchor, selected),
  ],
  ['smooth from end to end', ({ frames }) => smoothedFrames(frames, 0, frames.length - 1)],
  ['as loud as can be', ({ frames }) => frames.map(normalised)],
])

const FileButton = ({ onFrames, select }: Pick<TableActs, 'onFrames' | 'select'>) => {
  const app = useApp()
  const load = async (file: File): Promise<void> => {
    const { result } = await app.audio.readSound(new Uint8Array(await file.arrayBuffer()))
    if (!result.ok) {
      app.notifier.error(`${file.name}: ${faultText(result.fault)}`)
      return
    }
    const samples = result.sound.channels[0]!
    await onFrames(framesOf(samples, frameSizeOf(samples.length)), `Load ${file.name} as a table`)
    select(0)
  }
  return (
    <FilePick label="A WAV file for the table" accept={WAV_FILES} onFile={(file) => void load(file)}>
      {(open) => (
        <Button look="small" onClick={open}>
          Load WAV
        </Button>
      )}
    </FilePick>
  )
}

export const TableHead = (acts: TableActs) => {
  const { frames, selected, select, onFrames } = acts
  const app = useApp()
  return (
    <div className="editor-head">
      <NumberText
        param={{ ...plain('frame', 'Frame', 1, frames.length), whole: true }}
        value={selected + 1}
        onSet={(value) => {
          select(value - 1)
        }}
      />
      <NumberText
        param={{ ...plain('frames', 'of', 1, MOST_FRAMES), whole: true }}
        value={frames.length}
        onSet={(count) => {
          void onFrames(stretchedFrames(frames, count), `Make it ${count} frames`)
          select(Math.min(selected, count - 1))
        }}
      />
      <Button
        look="small"
        disabled={frames.length >= MOST_FRAMES}
        onClick={() => {
          const next = [...frames.slice(0, selected + 1), ...frames.slice(selected)]
          void onFrames(next, 'Put a frame')
          select(selected + 1)
        }}
      >
        Put one behind
      </Button>
      <Button
        look="small"
        disabled={frames.length < 2}
        onClick={() => {
          void onFrames(
            frames.filter((_, n) => n !== selected),
            'Take a frame away',
          )
          select(Math.max(0, selected - 1))
        }}
      >
        Take it away
      </Button>
      <Choice
        label="Change the table"
        value=""
        options={[{ value: '', label: 'change …' }, ...[...CHANGES.keys()].map((value) => ({ value }))]}
        onPointed={app.chart.focus}
        onChange={(word) => {
          const change = CHANGES.get(word)
          if (change) void onFrames(change(acts), `Table: ${word}`)
        }}
      />
      <ComputeSheet count={frames.length} onFrames={onFrames} />
      <FileButton onFrames={onFrames} select={select} />
      <HowTo words="Draw the wave, or the levels of its partials. Frames in depth are chosen by the mouse or by up and down; what is smooth goes from the one chosen before to the one chosen now." />
    </div>
  )
}
