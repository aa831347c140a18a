import { type ComponentProps, useEffect, useRef, useState } from 'react'

interface TextFieldProps extends Omit<
  ComponentProps<'input'>,
  'value' | 'onChange' | 'aria-label' | 'defaultValue'
> {
  readonly label: string
  readonly value: string
  /** What was typed, with Enter, Tab or by leaving; a sentence refuses it and nothing changes. */
  readonly onCommit: (text: string) => string | undefined
  /** Typing was given up, or is done. */
  readonly onDone?: () => void
}

/**
 * A line of text: Enter, Tab and leaving take it, Escape gives it up. What cannot be taken is said under the field, and
 * stays there to be put right until it is left; then what was before stands again.
 */
export const TextField = ({ label, value, onCommit, onDone, className = '', ...props }: TextFieldProps) => {
  const [text, setText] = useState<string | undefined>(undefined)
  const [fault, setFault] = useState<string | undefined>(undefined)
  const isOver = useRef(false)
  const end = (): void => {
    setText(undefined)
    setFault(undefined)
    onDone?.()
  }
  /** True when it was taken. */
  const commit = (): boolean => {
    const words = text === undefined || text === value ? undefined : onCommit(text)
    setFault(words)
    if (words === undefined) end()
    return words === undefined
  }
  return (
    <span className="relative block min-w-0">
      <input
        {...props}
        className={`text-field ${className}`}
        aria-label={label}
        aria-invalid={fault !== undefined}
        value={text ?? value}
        onChange={(event) => {
          isOver.current = false
          setText(event.target.value)
          setFault(undefined)
        }}
        onFocus={(event) => {
          isOver.current = false
          event.target.select()
        }}
        onBlur={() => {
          if (!isOver.current && !commit()) end()
        }}
        onKeyDown={(event) => {
          event.stopPropagation()
          if (event.key === 'Enter' && commit()) {
            isOver.current = true
            event.currentTarget.blur()
          }
          if (event.key === 'Escape') {
            event.preventDefault()
            isOver.current = true
            end()
            event.currentTarget.blur()
          }
        }}
      />
      {fault !== undefined && <Fault words={fault} />}
    </span>
  )
}

/** Why what was typed was not taken, beside the field. */
export const Fault = ({ words }: { readonly words: string }) => (
  <span className="fault" role="alert">
    {words}
  </span>
)

interface SearchProps extends Omit<ComponentProps<'input'>, 'value' | 'onChange' | 'aria-label'> {
  readonly label: string
  readonly value: string
  readonly onChange: (text: string) => void
}

/** A line to search with: each letter counts at once, Escape empties it. */
export const SearchField = ({ label, value, onChange, className = '', onKeyDown, ...props }: SearchProps) => {
  const input = useRef<HTMLInputElement>(null)
  useEffect(() => {
    if (props.autoFocus) input.current?.focus()
  }, [props.autoFocus])
  return (
    <input
      ref={input}
      {...props}
      type="search"
      className={`search-field ${className}`}
      aria-label={label}
      value={value}
      onChange={(event) => {
        onChange(event.target.value)
      }}
      onKeyDown={(event) => {
        event.stopPropagation()
        if (event.key === 'Escape' && value !== '') {
          event.preventDefault()
          onChange('')
        } else onKeyDown?.(event)
      }}
    />
  )
}
