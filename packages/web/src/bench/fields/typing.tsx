import { useRef, useState } from 'react'
import { Fault } from '../../ui/text-field.tsx'

interface TypingProps {
  readonly label: string
  readonly text: string
  /** Takes what was typed; a sentence refuses it. */
  readonly onCommit: (text: string) => string | undefined
  /** Typing is over; `byKeys` where Enter or Escape ended it. */
  readonly onDone: (byKeys: boolean) => void
}

/** A line of text over a field while it is typed into: Enter, Tab and leaving take it, Escape does not. */
export const Typing = ({ label, text: first, onCommit, onDone }: TypingProps) => {
  const [text, setText] = useState(first)
  const [fault, setFault] = useState<string | undefined>(undefined)
  const isOver = useRef(false)
  const done = (byKeys: boolean): void => {
    isOver.current = true
    onDone(byKeys)
  }
  const commit = (): boolean => {
    const words = text === first && first.length > 1 ? undefined : onCommit(text)
    setFault(words)
    return words === undefined
  }
  return (
    <>
      <input
        autoFocus
        aria-label={label}
        aria-invalid={fault !== undefined}
        className="mono typing nodrag nopan"
        value={text}
        onChange={(event) => {
          setText(event.target.value)
          setFault(undefined)
        }}
        onFocus={(event) => {
          // One character is the beginning of what is typed; more is what stood there.
          if (first.length > 1) event.target.select()
        }}
        onBlur={() => {
          if (isOver.current) return
          commit()
          done(false)
        }}
        onPointerDown={(event) => {
          event.stopPropagation()
        }}
        onKeyDown={(event) => {
          event.stopPropagation()
          if (event.key === 'Enter' && commit()) done(true)
          if (event.key === 'Escape') {
            event.preventDefault()
            done(true)
          }
        }}
      />
      {fault !== undefined && <Fault words={fault} />}
    </>
  )
}
