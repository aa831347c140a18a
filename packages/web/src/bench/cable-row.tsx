import {
  type Cable,
  labelOf,
  type Patch,
  outputKind,
  patchIndex,
  removeCables,
  splitTarget,
} from '@ypsilon/core'
import { X } from 'lucide-react'
import { memo } from 'react'
import { useDocument } from '../app/context.ts'
import { IconButton } from '../ui/button.tsx'
import { PortMark } from '../ui/icons.tsx'
import { AmountField } from './fields/amount-field.tsx'

interface CableRowProps {
  readonly cable: Cable
  readonly patch: Patch
  /** `in`: beside the module it ends on, which need not be named. */
  readonly toward: 'in' | 'both'
}

/** One cable: where it comes from, where it goes, how much of it. */
export const CableRow = memo(({ cable, patch, toward }: CableRowProps) => {
  const change = useDocument((state) => state.change)
  const [from = '', port = ''] = splitTarget(cable.from) ?? []
  const [to = '', input = ''] = splitTarget(cable.to) ?? []
  const kind = outputKind(patchIndex(patch).module.get(from), port)
  return (
    <li className="flex items-center gap-2 py-[3px]">
      <PortMark kind={kind} filled />
      <span className="min-w-0 flex-1 truncate">
        {labelOf(patch, from)} {port}{' '}
        <span className="text-ink2">
          → {toward === 'both' ? `${labelOf(patch, to)} ` : ''}
          {input}
          {cable.muted ? ', muted' : ''}
        </span>
      </span>
      <AmountField cable={cable} patch={patch} />
      <IconButton
        isSmall
        label={`Remove the cable from ${cable.from} to ${cable.to}`}
        tip="Remove"
        onClick={() => {
          change('Remove a cable', (draft) => {
            removeCables(draft, new Set([cable.id ?? '']))
          })
        }}
      >
        <X size={13} />
      </IconButton>
    </li>
  )
})
