/** How a spectrum is shown, and which sidebands are marked in it. */
import { parseNumber, printNumber } from '@ypsilon/core'
import { type ProbeSettings, SPECTRUM_SIZES } from '@ypsilon/core/probe/settings.ts'
import { useApp } from '../../app/context.ts'
import { Button } from '../../ui/button.tsx'
import { Choice } from '../../ui/select.tsx'
import { TextField } from '../../ui/text-field.tsx'
import { plain } from '../editors/number-text.tsx'
import { Row, type SlotParts } from './option-row.tsx'

const HERTZ = plain('hertz', 'Hertz', 0.1, 24000, 'Hz')

interface HertzProps {
  readonly label: string
  readonly value: number | 'auto' | 'off'
  readonly words: readonly ('auto' | 'off')[]
  readonly onSet: (value: number | 'auto' | 'off') => void
}

/** A frequency or a note, or a word instead. */
const HertzField = ({ label, value, words, onSet }: HertzProps) => (
  <TextField
    className="mono w-24 text-right"
    label={label}
    value={typeof value === 'number' ? printNumber(HERTZ, value) : value}
    onCommit={(text) => {
      const word = words.find((each) => each === text.trim().toLowerCase())
      if (word) {
        onSet(word)
        return undefined
      }
      const read = parseNumber(HERTZ, text)
      if (!read.ok) return `${read.message} Or write ${words.join(' or ')}.`
      onSet(read.value)
      return undefined
    }}
  />
)

/** A carrier, and how far its sidebands lie apart. */
const SidebandRows = ({ name, slot: { settings } }: SlotParts) => {
  const { probe } = useApp()
  return (
    <>
      <Row label="Sidebands of a carrier">
        <HertzField
          label="Carrier"
          value={settings.carrier}
          words={['off', 'auto']}
          onSet={(carrier) => {
            probe.getState().set(name, { carrier })
          }}
        />
      </Row>
      <Row label="apart by">
        <HertzField
          label="Modulator"
          value={settings.modulator}
          words={['auto']}
          onSet={(modulator) => {
            probe.getState().set(name, { modulator: modulator === 'off' ? 'auto' : modulator })
          }}
        />
      </Row>
    </>
  )
}

export const SpectrumRows = (props: SlotParts) => {
  const {
    name,
    slot: { settings },
  } = props
  const { probe, engine } = useApp()
  const set = (part: Partial<ProbeSettings>): void => {
    probe.getState().set(name, part)
  }
  return (
    <>
      <Row label="Frequencies">
        <Choice
          label={`Frequencies of slot ${name}`}
          value={settings.scale}
          options={[
            { value: 'log', label: 'by octaves' },
            { value: 'linear', label: 'by hertz' },
          ]}
          onChange={(scale) => {
            set({ scale: scale as ProbeSettings['scale'] })
          }}
        />
      </Row>
      <Row label="Resolution">
        <Choice
          label={`Resolution of slot ${name}`}
          value={String(settings.size)}
          options={SPECTRUM_SIZES.map((size) => ({
            value: String(size),
            label: `${(engine.sampleRate / size).toFixed(1)} Hz · ${Math.round((1000 * size) / engine.sampleRate)} ms`,
          }))}
          onChange={(size) => {
            set({ size: Number(size) })
          }}
        />
      </Row>
      <Row label="Highest levels">
        <Button
          look="small"
          aria-pressed={settings.holdsPeaks}
          onClick={() => {
            set({ holdsPeaks: !settings.holdsPeaks })
          }}
        >
          Hold them
        </Button>
      </Row>
      <SidebandRows {...props} />
    </>
  )
}
