import {
  type Cable,
  CATALOGUE,
  own,
  paramAt,
  parseAmount,
  type ParamDescription,
  type Patch,
  patchIndex,
  printAmount,
  splitTarget,
} from '@ypsilon/core'
import { useState } from 'react'
import { useApp } from '../../app/context.ts'
import { Tip } from '../../ui/tooltip.tsx'
import { setAmount } from '../edits.ts'
import { newGesture } from './types.ts'
import { Typing } from './typing.tsx'

/** The parameter a cable ends on, as it is at the module's settings; undefined for an input. */
export const targetParam = (patch: Patch, to: string): ParamDescription | undefined => {
  const [id = '', name = ''] = splitTarget(to) ?? []
  const module = patchIndex(patch).module.get(id)
  const param = module && CATALOGUE.get(module.type)?.params.get(name)
  return param && paramAt(param, module.params)
}

/** Reads what was typed as the amount of a cable onto a port. */
export const readAmount = (patch: Patch, to: string, text: string, now?: number) => {
  const [id = '', name = ''] = splitTarget(to) ?? []
  const set = own(patchIndex(patch).module.get(id)?.params, name)
  return parseAmount(targetParam(patch, to), text, {
    ...(typeof set === 'number' ? { set } : {}),
    ...(now === undefined ? {} : { now }),
  })
}

interface AmountProps {
  readonly cable: Cable
  readonly patch: Patch
}

/** The amount of a cable in the unit of what it moves: press it to type. */
export const AmountField = ({ cable, patch }: AmountProps) => {
  const app = useApp()
  const [isTyping, setTyping] = useState(false)
  const amount = cable.amount ?? 1
  const printed = printAmount(targetParam(patch, cable.to), amount)
  const commit = (text: string): string | undefined => {
    const result = readAmount(patch, cable.to, text, amount)
    if (!result.ok) return result.message
    setAmount(app, cable.id!, result.value, newGesture('type'))
    return undefined
  }
  return (
    <span className="relative inline-block min-w-16 text-right">
      <Tip words="Type an amount">
        <button
          type="button"
          className="btn-quiet mono"
          aria-label={`Amount, ${printed}`}
          onClick={() => {
            setTyping(true)
          }}
        >
          {printed}
        </button>
      </Tip>
      {isTyping && (
        <Typing
          label="Amount"
          text={printed.replace('−', '-')}
          onCommit={commit}
          onDone={() => {
            setTyping(false)
          }}
        />
      )}
    </span>
  )
}
