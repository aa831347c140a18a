import type { ComponentProps } from 'react'
import { Tip } from './tooltip.tsx'

interface ButtonProps extends ComponentProps<'button'> {
  /** `main`: the one that is meant; `small`: in a row of text. */
  readonly look?: 'plain' | 'main' | 'small' | 'quiet'
}

const LOOKS = { plain: 'btn', main: 'btn btn-main', small: 'btn btn-small', quiet: 'btn-quiet' } as const

/** A button with words. */
export const Button = ({ look = 'plain', className = '', ...props }: ButtonProps) => (
  <button type="button" className={`${LOOKS[look]} ${className}`} {...props} />
)

interface IconButtonProps extends Omit<ComponentProps<'button'>, 'title' | 'aria-label'> {
  /** What it does: its name and its tooltip. */
  readonly label: string
  /** What the tooltip says, where that is more than the name. */
  readonly tip?: string
  readonly keys?: string | undefined
  readonly isSmall?: boolean
  /** Where the tooltip stands. */
  readonly side?: 'top' | 'bottom' | 'left' | 'right'
}

/** A button with a mark alone; its name is in the tooltip. */
export const IconButton = ({
  label,
  tip,
  keys,
  isSmall = false,
  side = 'bottom',
  className = '',
  ...props
}: IconButtonProps) => (
  <Tip words={tip ?? label} keys={keys} side={side}>
    <button
      type="button"
      aria-label={label}
      className={`iconbtn ${isSmall ? 'iconbtn-small' : ''} ${className}`}
      {...props}
    />
  </Tip>
)
