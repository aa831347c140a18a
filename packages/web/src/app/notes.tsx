/** Where notes are shown. Loaded with the first of them, or when it is quiet. */
import { useEffect } from 'react'
import { toast, Toaster } from 'sonner'
import { noteHost } from '../services/notifier.ts'

export const Notes = ({ isNight }: { readonly isNight: boolean }) => {
  // What the toaster listens with is there before what its parent does.
  useEffect(() => {
    noteHost.ready(toast)
  }, [])
  return (
    <Toaster
      theme={isNight ? 'dark' : 'light'}
      position="bottom-right"
      toastOptions={{ style: { borderRadius: 3, fontFamily: 'inherit', whiteSpace: 'pre-line' } }}
    />
  )
}
