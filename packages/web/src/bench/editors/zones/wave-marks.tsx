/** A recording as a wave, with marks that are dragged: where it begins, goes round and ends. */
import type { Patch } from '@ypsilon/core'
import { movedMark } from '@ypsilon/core/describe/zone-map.ts'
import { peaksOf } from '@ypsilon/core/units/peaks.ts'
import { type KeyboardEvent, type PointerEvent, useMemo } from 'react'
import { useApp, useDocument } from '../../../app/context.ts'
import { useNudge } from '../../fields/use-nudge.ts'
import { newGesture } from '../../fields/types.ts'
import { followPointer } from '../../follow-pointer.ts'
import { LiveLine } from '../live-line.tsx'

const COLUMNS = 480

export interface WaveMark {
  readonly name: string
  readonly label: string
  /** 0…1 of the recording. */
  readonly at: number
}

export interface WaveMarksProps {
  /** The recording's name in the patch. */
  readonly asset: string | undefined
  /** In the order they stand in. */
  readonly marks: readonly WaveMark[]
  /** Further lines that cannot be moved by themselves: slices. */
  readonly lines?: readonly number[]
  /** The stretch that goes round. */
  readonly loop?: readonly [number, number] | undefined
  /** The signal that tells where it is being read, 0…1. */
  readonly head: string
  readonly onMove: (name: string, at: number, gesture: string) => void
  readonly onGiveUp: (gesture: string) => void
}

const ARROWS: ReadonlyMap<string, number> = new Map([
  ['ArrowLeft', -1],
  ['ArrowRight', 1],
  ['PageDown', -10],
  ['PageUp', 10],
])

interface MarkProps extends WaveMarksProps {
  readonly index: number
  readonly seconds: number
}

const Mark = ({ marks, index, seconds, onMove, onGiveUp }: MarkProps) => {
  const { name, label, at } = marks[index]!,
    places = marks.map((mark) => mark.at),
    nudge = useNudge(useApp())
  const onPointerDown = (event: PointerEvent<HTMLElement>): void => {
    if (event.button !== 0) return
    const { left, width } = event.currentTarget.parentElement!.getBoundingClientRect(),
      gesture = newGesture('mark')
    followPointer(event, {
      move: ({ clientX }) => {
        onMove(name, movedMark(places, index, (clientX - left) / width), gesture)
      },
      drop: () => undefined,
      giveUp: () => {
        onGiveUp(gesture)
      },
    })
  }
  const onKeyDown = (event: KeyboardEvent): void => {
    const by = ARROWS.get(event.key)
    if (by === undefined) return
    event.preventDefault()
    event.stopPropagation()
    // A hundredth of it, or a millisecond.
    const step = event.shiftKey && seconds > 0 ? 0.001 / seconds : 0.01
    onMove(name, movedMark(places, index, at + by * step), nudge())
  }
  return (
    <span
      role="slider"
      tabIndex={0}
      className="wave-mark nokey"
      data-mark={name}
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(100 * at)}
      aria-valuetext={`${(at * seconds).toFixed(3)} s`}
      style={{ left: `${100 * at}%` }}
      onPointerDown={onPointerDown}
      onKeyDown={onKeyDown}
    >
      <span className="wave-mark-name">{label}</span>
    </span>
  )
}

export const WaveMarks = (props: WaveMarksProps) => {
  const { asset, marks, lines = [], loop, head } = props
  const { audio } = useApp()
  const assets = useDocument(({ patch }) => (patch as { readonly assets?: unknown }).assets)
  const sound = useMemo(
    () => (asset === undefined ? undefined : audio.soundsFor({ assets } as unknown as Patch).get(asset)),
    [audio, assets, asset],
  )
  const path = useMemo(() => {
    if (!sound) return undefined
    const peaks = peaksOf(sound.channels, COLUMNS)
    const upper = peaks.map((peak, n) => `${n} ${50 - 48 * Math.min(1, peak)}`),
      lower = peaks.map((peak, n) => `${n} ${50 + 48 * Math.min(1, peak)}`).reverse()
    return `M${[...upper, ...lower].join('L')}Z`
  }, [sound])
  const seconds = sound ? (sound.channels[0]?.length ?? 0) / sound.rate : 0
  return (
    <div className="wave-marks" role="group" aria-label="The recording">
      {path === undefined ? (
        <p className="m-auto text-ink2">
          {asset === undefined ? 'No recording is chosen yet.' : `“${asset}” is not in this browser.`}
        </p>
      ) : (
        <>
          <svg viewBox={`0 0 ${COLUMNS} 100`} preserveAspectRatio="none" aria-hidden="true">
            <path d={path} />
          </svg>
          {loop && (
            <span
              className="wave-loop"
              aria-hidden="true"
              style={{ left: `${100 * loop[0]}%`, width: `${100 * Math.max(0, loop[1] - loop[0])}%` }}
            />
          )}
          {lines.map((at) => (
            <span key={at} className="wave-line" aria-hidden="true" style={{ left: `${100 * at}%` }} />
          ))}
          {marks.map((mark, index) => (
            <Mark key={mark.name} {...props} index={index} seconds={seconds} />
          ))}
          <LiveLine signal={head} most={1} />
        </>
      )}
    </div>
  )
}
