/** Says what alone is heard, while that is so. */
import { X } from 'lucide-react'
import { useApp } from '../app/context.ts'
import type { Listening as Listened } from '../store/workspace.ts'
import { IconButton } from '../ui/button.tsx'

export const Listening = ({ listening }: { readonly listening: Listened }) => {
  const { workspace } = useApp()
  return (
    <div className="listening" role="status" data-listening="">
      <span>
        Only <span className="font-semibold">{listening.words}</span> is heard, at −12 dB at the most
      </span>
      <IconButton
        isSmall
        label="Hear everything"
        keys="Esc"
        onClick={() => {
          workspace.getState().listen(undefined)
        }}
      >
        <X size={13} />
      </IconButton>
    </div>
  )
}
