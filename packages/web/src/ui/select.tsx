import { ChevronDown } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { useRef } from 'react'
import { overlays } from './overlays.ts'

export interface Option {
  readonly value: string
  readonly label?: string
}

interface ChoiceProps {
  readonly label: string
  readonly value: string
  readonly options: readonly Option[]
  readonly onChange: (value: string) => void
  /** For handles: `data-param`. */
  readonly name?: string
  /** Chosen by mouse: where the focus goes then. */
  readonly onPointed?: () => void
}

/** One of several words: a menu of which one is chosen. */
export const Choice = ({ label, value, options, onChange, name, onPointed }: ChoiceProps) => {
  const isMouse = useRef(false)
  const shown = options.find((option) => option.value === value)?.label ?? value
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger
        className="choice mono nodrag nopan nokey"
        aria-label={`${label}: ${shown}`}
        data-param={name}
        data-value={value}
      >
        <span className="truncate">{shown}</span>
        <ChevronDown size={11} className="shrink-0 text-ink2" aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal container={overlays()}>
        <DropdownMenu.Content
          className="menu menu-narrow"
          align="end"
          sideOffset={2}
          collisionPadding={8}
          aria-label={label}
          onCloseAutoFocus={(event) => {
            if (!isMouse.current || !onPointed) return
            event.preventDefault()
            onPointed()
          }}
          onPointerUpCapture={() => {
            isMouse.current = true
          }}
          onKeyDownCapture={() => {
            isMouse.current = false
          }}
        >
          <DropdownMenu.RadioGroup value={value} onValueChange={onChange}>
            {options.map((option) => (
              <DropdownMenu.RadioItem key={option.value} value={option.value} className="menu-line mono">
                {option.label ?? option.value}
              </DropdownMenu.RadioItem>
            ))}
          </DropdownMenu.RadioGroup>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
