/** One slot of the probe: what it looks at, its picture, what it reads. */
import type { ProbeKind } from '@ypsilon/core/probe/settings.ts'
import { Pause, Play, X } from 'lucide-react'
import { type MouseEvent, useCallback, useEffect } from 'react'
import type { App } from '../../app/app.ts'
import { useApp, useDocument } from '../../app/context.ts'
import { IconButton } from '../../ui/button.tsx'
import { Choice } from '../../ui/select.tsx'
import { Tip } from '../../ui/tooltip.tsx'
import { type Paint, useProbeCanvas } from './canvas.ts'
import { KIND_LABELS, KINDS, PATH_KINDS } from './kinds.ts'
import type { SlotParts } from './option-row.tsx'
import { ScopeChoices, SlotOptions } from './options.tsx'
import { drawPlot } from './painter.ts'
import { pathEnd, pathStarts } from './paths.ts'
import { Readings } from './readings.tsx'
import { areaOf } from './sheet.ts'
import { saveCsv, savePng, type Saved } from './save.ts'
import { probedOf } from './target.ts'
import { type Measuring, useResponse } from './use-response.ts'
import { shareOf } from './axes.ts'

interface SlotProps extends SlotParts {
  /** There is room for its choices beside its name. */
  readonly isWide: boolean
}

const Head = ({
  words,
  ...props
}: SlotProps & { readonly words: string } & Pick<HeadActs, 'onPng' | 'onCsv'>) => {
  const { name, slot, isWide, onPng, onCsv } = props
  const { probe, chart } = useApp()
  return (
    <header className="probe-head">
      <b className="mono text-ink2" aria-hidden="true">
        {name}
      </b>
      <Tip words={words}>
        <b className="min-w-0 flex-1 truncate">{words}</b>
      </Tip>
      {isWide && slot.settings.kind === 'scope' && <ScopeChoices {...props} />}
      <Choice
        label={`What slot ${name} shows`}
        value={slot.settings.kind}
        options={KINDS.map((kind) => ({ value: kind, label: KIND_LABELS[kind] }))}
        onPointed={chart.focus}
        onChange={(kind) => {
          probe.getState().set(name, { kind: kind as ProbeKind })
        }}
      />
      <IconButton
        label={slot.isFrozen ? `Let slot ${name} go on` : `Freeze slot ${name}`}
        isSmall
        side="top"
        aria-pressed={slot.isFrozen}
        onClick={() => {
          probe.getState().change(name, { isFrozen: !slot.isFrozen })
        }}
      >
        {slot.isFrozen ? <Play size={13} aria-hidden /> : <Pause size={13} aria-hidden />}
      </IconButton>
      <SlotOptions {...props} onPng={onPng} onCsv={onCsv} />
      <IconButton
        label={`Close slot ${name}`}
        isSmall
        side="top"
        onClick={() => {
          probe.getState().close(name)
        }}
      >
        <X size={13} aria-hidden />
      </IconButton>
    </header>
  )
}

interface HeadActs {
  readonly onPng: () => void
  readonly onCsv: () => void
}

/** Lines of what is laid over, as the picture draws them. */
export const Legend = ({ names }: { readonly names: readonly string[] }) =>
  names.length === 0 ? null : (
    <ul className="probe-legend" aria-label="Laid over">
      {names.map((name, n) => (
        <li key={`${n} ${name}`} data-line={n}>
          {name}
        </li>
      ))}
    </ul>
  )

const Said = ({ measuring, isGone }: { readonly measuring: Measuring; readonly isGone: boolean }) => {
  if (isGone)
    return <p className="probe-said">What it looked at is gone. Shift-click another output, or close it.</p>
  if (measuring.kind === 'busy') return <p className="probe-said">Measuring the path …</p>
  if (measuring.kind === 'fault')
    return (
      <p className="probe-said" role="alert">
        {measuring.words}
      </p>
    )
  return null
}

/** What is measured along a path has one: from the module's own sound input, as long as nobody has chosen another. */
const useOwnPath = ({ name, slot, feed }: SlotParts): void => {
  const { probe } = useApp()
  const patch = useDocument((state) => state.patch)
  const { path, target = '', settings } = slot,
    isNeeded = PATH_KINDS.has(settings.kind) && path.from === undefined
  useEffect(() => {
    if (!isNeeded) return
    const [start] = pathStarts(patch, pathEnd(patch, target, feed.probed(name)?.tap))
    if (start) probe.getState().change(name, { path: { ...path, from: start.from } })
  }, [probe, patch, name, target, path, feed, isNeeded])
}

/** A press in a spectrum: the peak next to it is the carrier, with Shift the next sideband. */
const usePeakPress = ({ name, slot, feed }: SlotParts) => {
  const { probe } = useApp()
  return (event: MouseEvent<HTMLCanvasElement>): void => {
    const plot = feed.plot(name)
    if (slot.settings.kind !== 'spectrum' || !plot) return
    const { left, top, width, height } = event.currentTarget.getBoundingClientRect()
    const area = areaOf(plot, width, height),
      share = (event.clientX - left - area.left) / area.width
    if (event.clientY - top < area.top - 2) return
    const near = plot.marks
      .map((mark) => ({ hz: mark.x, away: Math.abs(shareOf(plot.across, mark.x) - share) * area.width }))
      .filter(({ away }) => away < 10)
      .sort((a, b) => a.away - b.away)[0]
    if (!near) return
    const { carrier } = slot.settings
    if (event.shiftKey && typeof carrier === 'number' && Math.abs(near.hz - carrier) > 1)
      probe.getState().set(name, { modulator: Math.abs(near.hz - carrier) })
    else if (!event.shiftKey) probe.getState().set(name, { carrier: near.hz })
  }
}

export const SlotView = (props: SlotProps) => {
  const { name, slot, feed } = props
  const app = useApp()
  useOwnPath(props)
  const measuring = useResponse(feed, name, slot)
  const words = useDocument(({ patch }) => probedOf(patch, slot.target ?? '')?.words)
  const label = KIND_LABELS[slot.settings.kind],
    shown = words ?? slot.target ?? ''
  const paint = useCallback<Paint>(
    (context, ink, size, pointer) => {
      const plot = feed.plot(name)
      if (!plot) context.clearRect(0, 0, size.width, size.height)
      else drawPlot(context, ink, { plot, overlays: feed.overlays(name), pointer }, size)
    },
    [feed, name],
  )
  const { ref, pointer } = useProbeCanvas(() => [feed.plot(name), feed.overlays(name)], paint)
  const onPress = usePeakPress(props)
  const save = (act: (app: App, saved: Saved) => void) => (): void => {
    // What was chosen a moment ago is still being worked out.
    void feed.shown(name).then((plot) => {
      if (!plot) app.notifier.warning('Nothing is shown yet that could be saved.')
      else act(app, { plot, overlays: feed.overlays(name), title: `${shown}, ${label.toLowerCase()}` })
    })
  }
  return (
    <section className="probe-slot" data-slot={name} aria-label={`Slot ${name}: ${label} of ${shown}`}>
      <Head {...props} words={shown} onPng={save(savePng)} onCsv={save(saveCsv)} />
      <Legend names={slot.overlays.map((overlay) => overlay.name)} />
      <div className="flex min-h-0 flex-1">
        <div className="relative min-w-0 flex-1">
          <canvas
            ref={ref}
            className="absolute inset-0 h-full w-full"
            role="img"
            aria-label={`${label} of ${shown}`}
            onClick={onPress}
            onPointerMove={({ nativeEvent: { offsetX: x, offsetY: y } }) => {
              pointer.current = { x, y }
            }}
            onPointerLeave={() => {
              pointer.current = undefined
            }}
          />
          <Said measuring={measuring} isGone={words === undefined} />
        </div>
        <Readings feed={feed} name={name} words={shown} />
      </div>
    </section>
  )
}
