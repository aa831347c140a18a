/** The picture of the selected module, as it plays. */
import { type Patch, type PatchModule, pictureOf } from '@ypsilon/core'
import { memo, useMemo } from 'react'
import { useApp } from '../app/context.ts'
import { signalOf, SoundingPainter } from './chart/painters.ts'
import { PictureHandles } from './picture-handles.tsx'
import { PicturesIn } from './pictures-in.tsx'

const WIDTH = 264,
  HEIGHT = 104

interface LivePictureProps {
  readonly module: PatchModule
  readonly patch: Patch
}

export const LivePicture = memo(({ module, patch }: LivePictureProps) => {
  const { audio } = useApp()
  const { assets } = patch as { readonly assets?: unknown }
  const recording = useMemo(
    () => (name: string) => audio.shapeOf({ assets } as unknown as Patch, name),
    [audio, assets],
  )
  const [title, marks] = useMemo(() => {
    const picture = pictureOf(module, undefined, recording)
    return [picture?.title ?? 'Signal now', picture?.marks ?? []] as const
  }, [module, recording])
  // Edits that leave the module and its signal alone do not begin the picture anew.
  const { key, kind } = signalOf(patch, module) ?? {}
  const items = useMemo(
    () => [
      {
        key: module.id,
        box: { left: 0, top: 0, right: WIDTH, bottom: HEIGHT },
        painter: new SoundingPainter(
          module,
          key === undefined || !kind ? undefined : { key, kind },
          recording,
        ),
      },
    ],
    [module, key, kind, recording],
  )
  return (
    <figure className="m-0 border-b border-rule px-3 py-2.5">
      <div className="relative" style={{ width: WIDTH, height: HEIGHT }}>
        {marks.map(([at, word]) => (
          <span
            key={word}
            className="picture-mark mono"
            data-at={at > 0.85 ? 'end' : 'begin'}
            style={{ left: `${100 * at}%` }}
          >
            {word}
          </span>
        ))}
        <PicturesIn
          width={WIDTH}
          height={HEIGHT}
          items={items}
          role="img"
          aria-label={title}
          testId="module-picture"
        />
        <PictureHandles module={module} />
      </div>
      <figcaption className="mt-1 text-11 text-ink2">{title}</figcaption>
    </figure>
  )
})
