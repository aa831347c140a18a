/** A clip of notes in the dock: drawn, moved, voiced anew, read from MIDI files and written to them. */
import { labelOf, own, paramAt, setParam } from '@ypsilon/core'
import {
  changedClip,
  type Chosen,
  CLIP_CHANGES,
  type Clip,
  type ClipChange,
  inLayer,
  keptRange,
  type NoteRange,
} from '@ypsilon/core/describe/clips.ts'
import { useEffect, useMemo, useRef, useState } from 'react'
import { useApp, useDocument } from '../../../app/context.ts'
import { Button } from '../../../ui/button.tsx'
import { FilePick } from '../../../ui/file-pick.tsx'
import { Choice } from '../../../ui/select.tsx'
import { HowTo } from '../how-to.tsx'
import { NumberText } from '../number-text.tsx'
import type { EditorProps } from '../types.ts'
import { ClipSheet } from './clip-field.tsx'
import { type ClipParts, writeClip } from './clip-hand.ts'
import { readClip, saveClip } from './clip-midi.ts'

const BEATS_PER_BAR = 4
const GRIDS: readonly { readonly value: string; readonly label: string }[] = [
  { value: '0', label: 'off' },
  { value: '1', label: '1/4' },
  { value: '0.5', label: '1/8' },
  { value: '0.25', label: '1/16' },
  { value: '0.125', label: '1/32' },
  { value: String(1 / 3), label: '1/8t' },
  { value: String(1 / 6), label: '1/16t' },
]
/** Layers a hand writes on; −1: all of them together. */
const LAYERS = ['-1', '0', '1', '2', '3'] as const
const layerWords = (value: string): string => (value === '-1' ? 'all' : String(Number(value) + 1))
/** Pixels of a beat, from the whole clip at once to close up. */
const ZOOMS = [
  { value: '0', label: 'whole' },
  { value: '48', label: 'near' },
  { value: '120', label: 'close' },
] as const

interface HeadProps {
  readonly parts: ClipParts
  readonly zoom: string
  readonly onZoom: (zoom: string) => void
  readonly onGrid: (grid: number) => void
  readonly onLayer: (layer: number) => void
  readonly module: EditorProps['module']
  readonly description: EditorProps['description']
}

const MidiButtons = ({ parts, mostBars }: { readonly parts: ClipParts; readonly mostBars: number }) => (
  <>
    <FilePick
      label="A MIDI file for the clip"
      accept=".mid,.midi,audio/midi"
      onFile={(file) => void readClip(parts, file, mostBars)}
    >
      {(open) => (
        <Button look="small" onClick={open}>
          Read MIDI
        </Button>
      )}
    </FilePick>
    <Button
      look="small"
      disabled={parts.clip.length === 0}
      onClick={() => {
        saveClip(parts)
      }}
    >
      Save MIDI
    </Button>
  </>
)

const LayerChoice = ({ parts, onLayer }: Pick<HeadProps, 'parts' | 'onLayer'>) => (
  <Choice
    label="Layer"
    value={String(parts.layer)}
    options={LAYERS.map((value) => ({ value, label: layerWords(value) }))}
    onPointed={parts.app.chart.focus}
    onChange={(value) => {
      const layer = Number(value)
      // What is chosen goes along.
      if (layer >= 0 && parts.chosen.size > 0)
        writeClip(parts, inLayer(parts.clip, parts.chosen, layer), `Put notes on layer ${layer + 1}`)
      onLayer(layer)
    }}
  />
)

const Head = ({ parts, zoom, onZoom, onGrid, onLayer, module, description }: HeadProps) => {
  const { app, clip, chosen, grid, id } = parts
  const known = description.params.find(({ name }) => name === 'bars'),
    param = known && paramAt(known, module.params)
  const change = (by: string): void => {
    if (!by) return
    const all: Chosen = chosen.size > 0 ? chosen : new Set(clip.keys())
    writeClip(parts, changedClip(clip, all, by as ClipChange, { grid, random: Math.random }), `Notes ${by}`)
  }
  return (
    <div className="editor-head">
      {param?.kind === 'number' && (
        <NumberText
          param={param}
          value={parts.beats / BEATS_PER_BAR}
          onSet={(bars) => {
            app.document.getState().change('Set bars of the clip', (draft) => {
              setParam(draft, id, 'bars', bars)
            })
          }}
        />
      )}
      <span className="text-ink2">Grid</span>
      <Choice
        label="Grid"
        value={String(grid)}
        options={GRIDS}
        onPointed={app.chart.focus}
        onChange={(value) => {
          onGrid(Number(value))
        }}
      />
      <span className="text-ink2">Layer</span>
      <LayerChoice parts={parts} onLayer={onLayer} />
      <Choice
        label={chosen.size > 0 ? `Change ${chosen.size} chosen` : 'Change all notes'}
        value=""
        options={[
          { value: '', label: chosen.size > 0 ? `change ${chosen.size} …` : 'change all …' },
          ...CLIP_CHANGES.map((value) => ({ value })),
        ]}
        onPointed={app.chart.focus}
        onChange={change}
      />
      <span className="text-ink2">Shown</span>
      <Choice label="Shown" value={zoom} options={ZOOMS} onPointed={app.chart.focus} onChange={onZoom} />
      <MidiButtons parts={parts} mostBars={param?.kind === 'number' ? param.max : 64} />
      <HowTo words="A press puts a note, drawn out it is longer; double-click takes it away. Shift draws a frame that chooses, Ctrl one that chooses more, Alt lets go of the grid. Left and right go from note to note; up and down move by semitones, Shift by octaves and bars, Alt with left and right by the grid. + and − make longer and shorter, PageUp and PageDown louder and softer, Insert puts one more." />
    </div>
  )
}

export const ClipEditor = ({ module, description }: EditorProps) => {
  const app = useApp()
  const name = useDocument(({ patch }) => labelOf(patch, module.id))
  const data = description.data!.find(({ kind }) => kind === 'notes')!
  const clip = (own(module.data, data.name) ?? data.default) as Clip
  const [chosen, choose] = useState<Chosen>(new Set()),
    [grid, setGrid] = useState(0.25),
    [layer, setLayer] = useState(-1),
    [zoom, setZoom] = useState<string>(ZOOMS[0].value)
  useEffect(() => {
    // What undo took away is not chosen any more.
    if ([...chosen].some((index) => index >= clip.length))
      choose(new Set([...chosen].filter((index) => index < clip.length)))
  }, [chosen, clip])
  const bars = Number(
    own(module.params, 'bars') ?? description.params.find((param) => param.name === 'bars')?.default ?? 4,
  )
  // Rows stay where they are while notes are put: they would slip away under the hand.
  const range = useRef<NoteRange>(undefined)
  const shown = useMemo(() => (range.current = keptRange(clip, range.current)), [clip])
  const parts: ClipParts = {
    app,
    id: module.id,
    name,
    data: data.name,
    clip,
    chosen,
    choose,
    beats: BEATS_PER_BAR * bars,
    ...shown,
    grid,
    layer,
  }
  return (
    <section className="editor" aria-label={`${description.label} of ${name}`} data-editor="clip">
      <Head
        parts={parts}
        zoom={zoom}
        onZoom={setZoom}
        onGrid={setGrid}
        onLayer={setLayer}
        module={module}
        description={description}
      />
      <ClipSheet parts={parts} beatPx={Number(zoom)} />
    </section>
  )
}
