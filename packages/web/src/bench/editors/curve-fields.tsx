/** The selected point in numbers: typed with units, exactly. */
import { movePoint, own, patchIndex, type Point, type Spans, spotOf } from '@ypsilon/core'
import { bendPoint } from '@ypsilon/core/describe/redrawing.ts'
import { useDocument } from '../../app/context.ts'
import { Button } from '../../ui/button.tsx'
import { NumberText, plain } from './number-text.tsx'
import { type Drawn, splitBehind, takePoint, write } from './curve-hand.ts'

/** Seconds that 1 across stands for; undefined where it counts as it is. */
export const useLength = (id: string, { length }: Spans): number | undefined =>
  useDocument(({ patch }) => {
    const module = patchIndex(patch).module.get(id)
    if (length === undefined || !module || module.params?.['sync'] === true) return undefined
    return Number(own(module.params, length) ?? 1)
  })

interface PointFieldsProps {
  readonly drawn: Drawn
  readonly selected: number | undefined
  readonly onSelect: (index: number | undefined) => void
}

const AddRemove = ({ drawn, selected, onSelect }: PointFieldsProps & { readonly selected: number }) => {
  const last = drawn.points.length - 1
  return (
    <>
      <Button
        look="small"
        disabled={selected === last}
        onClick={() => {
          onSelect(splitBehind(drawn, selected))
        }}
      >
        Add behind
      </Button>
      <Button
        look="small"
        disabled={selected === 0 || selected === last}
        onClick={() => {
          takePoint(drawn, selected)
          onSelect(undefined)
        }}
      >
        Remove
      </Button>
    </>
  )
}

export const PointFields = ({ drawn, selected, onSelect }: PointFieldsProps) => {
  const { points, spans, name, id } = drawn
  const seconds = useLength(id, spans)
  const point = selected === undefined ? undefined : points[selected]
  if (selected === undefined || !point) return <span className="text-ink2">{points.length} points</span>
  const [x, y] = spotOf(point, spans),
    at = point.x ?? point.t ?? 0,
    height = point.y ?? point.v ?? 0
  const move = (to: readonly [number, number]): void => {
    write(drawn, `Move point ${selected + 1} of ${name}`, movePoint(points, selected, to, spans))
  }
  const across =
    seconds === undefined ? plain('at', 'At', spans.left, spans.right) : plain('at', 'At', 0, seconds, 's')
  return (
    <>
      <NumberText
        param={across}
        value={seconds === undefined ? at : at * seconds}
        onSet={(value) => {
          const place = seconds === undefined ? value : value / seconds
          move([(place - spans.left) / (spans.right - spans.left), y])
        }}
      />
      <NumberText
        param={plain('value', 'Value', spans.foot, spans.top)}
        value={height}
        onSet={(value) => {
          move([x, (value - spans.foot) / (spans.top - spans.foot)])
        }}
      />
      {selected < points.length - 1 && (
        <NumberText
          param={plain('bend', 'Bend', -1, 1)}
          value={point.curve ?? 0}
          onSet={(value) => {
            write(drawn, `Bend ${name}`, bendPoint(points, selected, value))
          }}
        />
      )}
      {spans.length !== undefined && <Waits drawn={drawn} selected={selected} />}
      <AddRemove drawn={drawn} selected={selected} onSelect={onSelect} />
    </>
  )
}

type Waiting = Point & { readonly sustain?: boolean }

/** Marks the point at which a held contour waits. */
const Waits = ({ drawn, selected }: { readonly drawn: Drawn; readonly selected: number }) => {
  const points = drawn.points as readonly Waiting[],
    isHere = points[selected]!.sustain === true
  return (
    <Button
      look="small"
      aria-pressed={isHere}
      onClick={() => {
        const next = points.map(({ sustain: _, ...point }, n) =>
          n === selected && !isHere ? { ...point, sustain: true } : point,
        )
        write(drawn, `Set where ${drawn.name} waits`, next)
      }}
    >
      Waits here
    </Button>
  )
}
