import { type ModuleDescription, type Picture, pictureOf } from '@ypsilon/core'
import { memo, useMemo } from 'react'
import { WIDEST_BAR } from './chart/profile.ts'

const WIDTH = 272,
  HEIGHT = 96,
  PAD = 6
const INKS = ['var(--accent)', 'var(--ink2)']
const x = (value: number): number => PAD + value * (WIDTH - 2 * PAD)
const y = (value: number): number => HEIGHT - PAD - value * (HEIGHT - 2 * PAD)

/** Draws a picture the core worked out: lines, bars or steps. */
export const PictureView = ({ picture }: { picture: Picture }) => (
  <figure className="m-0">
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="block w-full"
      role="img"
      aria-label={picture.title}
      data-testid="module-picture"
    >
      <rect x={0.5} y={0.5} width={WIDTH - 1} height={HEIGHT - 1} fill="none" stroke="var(--rule)" />
      {picture.marks?.map(([at, word]) => (
        <g key={word}>
          <line x1={x(at)} x2={x(at)} y1={1} y2={HEIGHT - 1} stroke="var(--rule)" strokeDasharray="2 3" />
          <text x={x(at) + 3} y={10} fontSize={8.5} fill="var(--ink2)">
            {word}
          </text>
        </g>
      ))}
      {picture.kind === 'line'
        ? picture.curves.map((curve, index) => (
            <polyline
              key={index}
              points={curve.points
                .map(([a, b]) => `${x(a).toFixed(1)},${y(Math.min(1, Math.max(0, b))).toFixed(1)}`)
                .join(' ')}
              fill="none"
              stroke={picture.curves.length > 2 ? INKS[0] : INKS[index % INKS.length]}
              strokeWidth={1.4}
            />
          ))
        : picture.curves.map((curve, index) =>
            curve.points.map(([a, b], bar) => {
              const width = Math.max(
                1.5,
                Math.min((WIDTH - 2 * PAD) / curve.points.length - 2, WIDTH * WIDEST_BAR),
              )
              return (
                <rect
                  key={`${index}-${bar}`}
                  x={x(a) - width / 2}
                  width={width}
                  y={y(b)}
                  height={Math.max(1, HEIGHT - PAD - y(b))}
                  fill={INKS[0]}
                  opacity={picture.kind === 'steps' && b === 0 ? 0.25 : 0.75}
                />
              )
            }),
          )}
    </svg>
    <figcaption className="mt-0.5 text-11 text-ink2">
      {picture.title}
      {picture.curves.length === 2 && picture.curves[0]!.name
        ? ` (${picture.curves.map((curve) => curve.name).join(', ')})`
        : ''}
    </figcaption>
  </figure>
)

/** A module's picture as it comes; nothing where it has none. */
export const DefaultPicture = memo(({ description }: { readonly description: ModuleDescription }) => {
  const picture = useMemo(() => pictureOf({ id: 'guide', type: description.type }), [description])
  return picture ? (
    <div className="w-64 shrink-0">
      <PictureView picture={picture} />
    </div>
  ) : null
})
