import { ChevronDown } from 'lucide-react'
import { Select } from 'radix-ui'
import { useRef } from 'react'

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

/** One of several words. */
export const Choice = ({ label, value, options, onChange, name, onPointed }: ChoiceProps) => {
  const isMouse = useRef(false)
  return (
    <Select.Root value={value} onValueChange={onChange}>
      <Select.Trigger className="choice mono nodrag" aria-label={label} data-param={name} data-value={value}>
        <span className="truncate">
          <Select.Value />
        </span>
        <ChevronDown size={11} className="shrink-0 text-ink2" aria-hidden />
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          className="menu"
          position="popper"
          sideOffset={2}
          collisionPadding={8}
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
          <Select.Viewport>
            {options.map((option) => (
              <Select.Item key={option.value} value={option.value} className="menu-line mono">
                <Select.ItemText>{option.label ?? option.value}</Select.ItemText>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  )
}
