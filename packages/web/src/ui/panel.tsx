import { type ReactNode, useEffect, useRef } from 'react'
import { Group, Panel, type PanelImperativeHandle, Separator } from 'react-resizable-panels'

/** A part of a panel under a heading. */
export const Section = ({ title, children }: { readonly title: string; readonly children: ReactNode }) => (
  <section className="border-b border-rule px-3 py-2.5">
    <h3 className="panel-title mb-1.5">{title}</h3>
    {children}
  </section>
)

/** What is said where there is nothing yet: one next step. */
export const Empty = ({ children }: { readonly children: ReactNode }) => (
  <p className="m-0 text-ink2">{children}</p>
)

interface PanesProps {
  readonly direction: 'horizontal' | 'vertical'
  readonly children: ReactNode
}

/** Panes beside or above one another, with edges between them that can be moved by mouse and keys. */
export const Panes = ({ direction, children }: PanesProps) => (
  <Group orientation={direction} className="h-full min-h-0">
    {children}
  </Group>
)

interface PaneProps {
  readonly id: string
  /** Pixels; left out: what the others leave. */
  readonly size?: { readonly now: number; readonly least: number; readonly most: number }
  readonly onSize?: (pixels: number) => void
  readonly children: ReactNode
}

/** One of them. One with a size keeps it when the window changes. */
export const Pane = ({ id, size, onSize, children }: PaneProps) => {
  const panel = useRef<PanelImperativeHandle>(null),
    wanted = size?.now
  const asked = useRef(wanted)
  useEffect(() => {
    // A pane that comes has its size already, and cannot be asked for one before it stands among the others.
    if (wanted === undefined || asked.current === wanted) return undefined
    asked.current = wanted
    const frame = requestAnimationFrame(() => {
      // What the hand has made of it since is the wanted size.
      if (Math.round(panel.current?.getSize().inPixels ?? wanted) !== wanted)
        panel.current?.resize(`${wanted}px`)
    })
    return () => {
      cancelAnimationFrame(frame)
    }
  }, [wanted])
  return (
    <Panel
      id={id}
      panelRef={panel}
      className="min-h-0 min-w-0"
      {...(size
        ? {
            defaultSize: `${size.now}px`,
            minSize: `${size.least}px`,
            maxSize: `${size.most}px`,
            groupResizeBehavior: 'preserve-pixel-size' as const,
          }
        : { minSize: '200px' })}
      onResize={({ inPixels }) => {
        onSize?.(inPixels)
      }}
    >
      {children}
    </Panel>
  )
}

/** The edge between two panes. */
export const Edge = ({ label }: { readonly label: string }) => (
  <Separator className="edge" aria-label={label} />
)
