/** A sampler's zones in the dock: where they lie on keys and velocities, and where the chosen one begins, goes round, ends. */
import { labelOf, own } from '@ypsilon/core'
import { layeredZones, spreadZones, type ZoneFields } from '@ypsilon/core/describe/zone-map.ts'
import { useState } from 'react'
import { useApp, useDocument } from '../../../app/context.ts'
import { Button } from '../../../ui/button.tsx'
import { Choice } from '../../../ui/select.tsx'
import { setData } from '../../data-text.ts'
import { RecordingChoice } from '../../fields/recording-field.tsx'
import { useNudge } from '../../fields/use-nudge.ts'
import { HowTo } from '../how-to.tsx'
import type { EditorProps } from '../types.ts'
import { WaveMarks } from './wave-marks.tsx'
import { ZoneMap } from './zone-map-view.tsx'

/** Keys over which zones are spread. */
const SPREAD = [24, 107] as const
const FROM_FILE = 'as the file says'
const LOOPS = [FROM_FILE, 'off', 'forward', 'pingpong'] as const

/** The zones of a module, and how they are written. */
const useZones = ({ module, description }: EditorProps) => {
  const app = useApp()
  const data = description.data!.find(({ kind }) => kind === 'zones')!
  const zones = (own(module.data, data.name) ?? data.default ?? []) as readonly ZoneFields[]
  const key = (gesture: string): string => `${module.id}.${data.name} ${gesture}`
  const write = (next: readonly ZoneFields[], words: string, gesture?: string): void => {
    setData(app, module.id, data.name, next, {
      words,
      ...(gesture === undefined ? {} : { gesture: key(gesture) }),
    })
  }
  return {
    zones,
    write,
    put: (index: number, zone: ZoneFields, words: string, gesture?: string) => {
      write(
        zones.map((each, n) => (n === index ? zone : each)),
        words,
        gesture,
      )
    },
    giveUp: (gesture: string) => {
      app.document.getState().giveUp(key(gesture))
    },
  }
}

/** Where a zone's recording begins, goes round and ends: its own places, or the module's. */
const placesOf = ({ module, description }: EditorProps, zone: ZoneFields) => {
  const place = (name: 'start' | 'end' | 'loopStart' | 'loopEnd'): number => {
    const set = zone[name] ?? own(module.params, name)
    const known = description.params.find((param) => param.name === name)?.default
    return typeof set === 'number' ? set : Number(known ?? 0)
  }
  const isLooped = (zone.loop ?? own(module.params, 'loop') ?? 'off') !== 'off'
  const ends = [place('start'), place('end')] as const,
    loop = [place('loopStart'), place('loopEnd')] as const
  return { ends, loop: isLooped ? loop : undefined }
}

const Wave = (props: EditorProps & { readonly index: number }) => {
  const { module, index } = props
  const { zones, put, giveUp } = useZones(props)
  const zone = zones[index]
  if (!zone)
    return <p className="m-auto text-ink2">Drop a recording here, or choose one: it becomes a zone.</p>
  const { ends, loop } = placesOf(props, zone)
  return (
    <WaveMarks
      asset={zone.asset}
      marks={[
        { name: 'start', label: 'start', at: ends[0] },
        ...(loop
          ? [
              { name: 'loopStart', label: 'loop', at: loop[0] },
              { name: 'loopEnd', label: 'round', at: loop[1] },
            ]
          : []),
        { name: 'end', label: 'end', at: ends[1] },
      ]}
      loop={loop}
      head={`${module.id}.head`}
      onMove={(name, at, gesture) => {
        put(
          index,
          { ...zone, [name]: Math.round(1e5 * at) / 1e5 },
          `Set ${name} of zone ${index + 1}`,
          gesture,
        )
      }}
      onGiveUp={giveUp}
    />
  )
}

/** What the chosen zone reads, and how it goes round. */
const ChosenZone = (props: EditorProps & { readonly zone: ZoneFields; readonly index: number }) => {
  const { zone, index } = props
  const { chart } = useApp()
  const { put } = useZones(props)
  return (
    <>
      <span className="text-ink2">Zone {index + 1}</span>
      <RecordingChoice
        label={`Recording of the zone`}
        value={zone.asset ?? ''}
        onChange={(asset) => {
          const { asset: _, ...rest } = zone
          put(index, asset ? { ...rest, asset } : rest, `Choose the recording of zone ${index + 1}`)
        }}
      />
      <span className="text-ink2">loop</span>
      <Choice
        label="Loop of the zone"
        value={zone.loop ?? FROM_FILE}
        options={LOOPS.map((value) => ({ value }))}
        onPointed={chart.focus}
        onChange={(word) => {
          const { loop: _, ...rest } = zone
          const next = word === FROM_FILE ? rest : { ...rest, loop: word }
          put(index, next, `Set the loop of zone ${index + 1}`)
        }}
      />
    </>
  )
}

const Head = (
  props: EditorProps & { readonly selected: number; readonly select: (index: number) => void },
) => {
  const { selected, select } = props
  const { chart } = useApp()
  const { zones, write } = useZones(props)
  const zone = zones[selected]
  return (
    <div className="editor-head">
      <span className="text-ink2">{zones.length === 1 ? '1 zone' : `${zones.length} zones`}</span>
      <Button
        look="small"
        onClick={() => {
          write([...zones, zone ? { ...zone } : {}], 'Add a zone')
          select(zones.length)
        }}
      >
        Add one
      </Button>
      <Choice
        label="Lay the zones out"
        value=""
        options={[
          { value: '', label: 'lay out …' },
          { value: 'beside each other' },
          { value: 'as layers of velocity' },
        ]}
        onPointed={chart.focus}
        onChange={(word) => {
          if (word === 'beside each other')
            write(spreadZones(zones, ...SPREAD), 'Spread the zones over the keys')
          if (word === 'as layers of velocity') write(layeredZones(zones), 'Lay the zones over each other')
        }}
      />
      {zone && <ChosenZone {...props} zone={zone} index={selected} />}
      <HowTo words="Drag a zone, or its edges alone. Arrows move it, Alt moves its upper ends, Shift by an octave or a tenth; Delete takes it away. Marks on the recording are dragged, or moved by arrows, Shift by milliseconds." />
    </div>
  )
}

export const ZonesEditor = (props: EditorProps) => {
  const { module, description } = props
  const app = useApp(),
    nudge = useNudge(app)
  const name = useDocument(({ patch }) => labelOf(patch, module.id))
  const { zones, write, put, giveUp } = useZones(props)
  const [chosen, select] = useState(0)
  const selected = Math.min(chosen, Math.max(0, zones.length - 1))
  return (
    <section className="editor" aria-label={`${description.label} of ${name}`} data-editor="zones">
      <Head {...props} selected={selected} select={select} />
      <div className="zone-parts">
        <ZoneMap
          zones={zones}
          selected={selected}
          select={select}
          onZone={put}
          onGiveUp={giveUp}
          nudge={nudge}
          onRemove={(index) => {
            write(
              zones.filter((_, n) => n !== index),
              'Take a zone away',
            )
          }}
        />
        <Wave {...props} index={selected} />
      </div>
    </section>
  )
}
