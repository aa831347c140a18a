/** Levels and ratios of partials from a sound: a file, or what the probe's first slot heard last. */
import { faultText, moduleIn, own, setParam } from '@ypsilon/core'
import { partialsFrom } from '@ypsilon/core/probe/partials.ts'
import type { PathSound } from '@ypsilon/core/probe/responses.ts'
import { useApp } from '../../app/context.ts'
import { FilePick, WAV_FILES } from '../../ui/file-pick.tsx'
import { Choice } from '../../ui/select.tsx'
import { feedOf } from '../probe/feeds.ts'
import type { EditorProps } from './types.ts'

interface SpectrumSourceProps extends EditorProps {
  readonly name: string
  /** The lists that are filled. */
  readonly levels: string
  readonly ratios: string
  /** The choice that lets the ratios count, and its words for a harmonic series and for one of its own. */
  readonly series: readonly [param: string, harmonic: string, own: string]
  /** What changes levels besides, and is set to 0. */
  readonly flat?: string
  readonly length: string
  readonly most: number
}

const FILE = 'a file …',
  HEARD = 'what slot A of the probe hears'

/** Writes the partials of a sound: one step. */
const useTake = ({ module, name, levels, ratios, series, flat, length, most }: SpectrumSourceProps) => {
  const app = useApp()
  return (sound: PathSound, from: string): void => {
    const found = partialsFrom(sound, most)
    if (!found) {
      app.notifier.warning(`Nothing is to be heard in ${from}: the partials stay as they are.`)
      return
    }
    app.document.getState().change(`Take the partials of ${from} into ${name}`, (draft) => {
      const target = moduleIn(draft, module.id)
      if (!target) return
      const before = own(target.data as Record<string, unknown>, 'on')
      target.data = {
        ...target.data,
        [levels]: [...found.levels],
        [ratios]: [...found.ratios],
        // What was switched off before is another partial now.
        ...(before === undefined ? {} : { on: [] }),
      }
      const [param, harmonic, ownWord] = series
      setParam(draft, module.id, param, found.isHarmonic ? harmonic : ownWord)
      if (flat !== undefined) setParam(draft, module.id, flat, 0)
      setParam(draft, module.id, length, Math.max(1, found.levels.length))
    })
  }
}

export const SpectrumSource = (props: SpectrumSourceProps) => {
  const app = useApp()
  const take = useTake(props)
  const read = async (file: File): Promise<void> => {
    const { result } = await app.audio.readSound(new Uint8Array(await file.arrayBuffer()))
    if (result.ok) take(result.sound, file.name)
    else app.notifier.error(`${file.name}: ${faultText(result.fault)}`)
  }
  const hear = async (): Promise<void> => {
    const sound = await feedOf(app).heard('A')
    if (sound) take(sound, 'slot A')
    else app.notifier.warning('Slot A of the probe has heard nothing yet. Open the probe and let it sound.')
  }
  return (
    <FilePick
      label="A WAV file whose partials are taken"
      accept={WAV_FILES}
      onFile={(file) => void read(file)}
    >
      {(open) => (
        <Choice
          label="From a spectrum"
          value=""
          options={[{ value: '', label: 'from a spectrum …' }, { value: FILE }, { value: HEARD }]}
          onPointed={app.chart.focus}
          onChange={(word) => {
            if (word === FILE) open()
            if (word === HEARD) void hear()
          }}
        />
      )}
    </FilePick>
  )
}
