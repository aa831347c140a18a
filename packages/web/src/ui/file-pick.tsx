/** A file that is chosen: the browser's dialog, opened by whatever stands beside it. */
import { type ReactElement, useRef } from 'react'

interface FilePickProps {
  /** What the file is for; its name for assistive technology. */
  readonly label: string
  readonly accept: string
  readonly onFile: (file: File) => void
  /** What opens the dialog. */
  readonly children: (open: () => void) => ReactElement
}

export const FilePick = ({ label, accept, onFile, children }: FilePickProps) => {
  const input = useRef<HTMLInputElement>(null)
  return (
    <>
      {children(() => input.current?.click())}
      <input
        ref={input}
        type="file"
        accept={accept}
        hidden
        aria-label={label}
        onChange={(event) => {
          const [file] = event.target.files ?? []
          // The same file may be chosen again.
          event.target.value = ''
          if (file) onFile(file)
        }}
      />
    </>
  )
}

export const WAV_FILES = '.wav,audio/wav'
