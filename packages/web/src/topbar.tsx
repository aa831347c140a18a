import { type Patch, emptyPatch, writeWav } from '@ypsilon/core'
import {
  ChevronDown,
  Circle,
  Keyboard,
  PanelBottom,
  PanelLeft,
  PanelRight,
  Play,
  Redo2,
  Square,
  Undo2,
  Moon,
  Sun,
} from 'lucide-react'
import { DropdownMenu, Popover } from 'radix-ui'
import { memo, useEffect, useRef, useState } from 'react'
import { NavLink } from 'react-router'
import { toast } from 'sonner'
import { engine } from './audio/engine-client.ts'
import { colour, registerPainter } from './bench/live.ts'
import { backToSet, keepMoved, redoCommand, undoCommand } from './bench/commands.ts'
import { download } from './download.ts'
import { exportPatch, fileName } from './files/export.ts'
import { ACCEPTED, importFiles } from './files/import.ts'
import { useDocument } from './store/document.ts'
import { isNight, type Take, useSession } from './store/session.ts'
import { showLoads, watchOverruns } from './load.ts'
import { Mark } from './ui/icons.tsx'

/** What is on the bench at the very first start. */
const FIRST = 'Reed Lamp'

/** Every patch of the demo folder: the first one, then by name. */
export const DEMOS: readonly Patch[] = Object.values(
  import.meta.glob<Patch>('@demo/patches/*.ypatch.json', { eager: true, import: 'default' }),
).sort((a, b) => Number(b.name === FIRST) - Number(a.name === FIRST) || a.name.localeCompare(b.name))

const SavedWords = memo(() => {
  const saved = useDocument((state) => state.saved)
  const [now, setNow] = useState(Date.now())
  useEffect(() => {
    const timer = setInterval(() => {
      setNow(Date.now())
    }, 5000)
    return () => {
      clearInterval(timer)
    }
  }, [])
  if (saved.kind === 'failed') return <span className="text-warn">not kept: {saved.message}</span>
  if (saved.kind === 'changed') return <span>keeping …</span>
  const seconds = Math.max(0, Math.round((now - saved.at) / 1000))
  return (
    <span>
      {saved.at === 0
        ? 'new'
        : seconds < 8
          ? 'kept just now'
          : seconds < 90
            ? `kept ${seconds} s ago`
            : `kept ${Math.round(seconds / 60)} min ago`}
    </span>
  )
})

const exportNow = (): void => {
  void exportPatch(useDocument.getState().patch)
}

const PatchMenu = () => {
  const name = useDocument((state) => state.patch.name)
  const open = useDocument((state) => state.open)
  const change = useDocument((state) => state.change)
  const input = useRef<HTMLInputElement>(null)
  const failed = useDocument((state) => state.saved.kind === 'failed')
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          className="max-w-[230px] border-0 bg-transparent p-0 text-left leading-tight"
          aria-label={`Patch ${name}`}
        >
          <span className="flex items-center gap-1 text-[14px] font-semibold">
            <span className="truncate">{name}</span>
            <ChevronDown size={13} />
          </span>
          <span className="block truncate text-[11.5px] text-ink2">
            <SavedWords />
          </span>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            className="menu"
            align="start"
            sideOffset={6}
            onCloseAutoFocus={(event) => {
              event.preventDefault()
            }}
          >
            <DropdownMenu.Item
              onSelect={() => {
                void open(emptyPatch())
              }}
            >
              New patch
            </DropdownMenu.Item>
            <DropdownMenu.Item
              onSelect={() => {
                const next = window.prompt('Name of the patch', name)
                if (next?.trim())
                  change('Rename the patch', (draft) => {
                    draft.name = next.trim()
                  })
              }}
            >
              Rename …
            </DropdownMenu.Item>
            <DropdownMenu.Item
              onSelect={() => {
                input.current?.click()
              }}
            >
              Open a file …
            </DropdownMenu.Item>
            <DropdownMenu.Item onSelect={exportNow}>Export as a file</DropdownMenu.Item>
            <DropdownMenu.Separator className="my-1 h-px bg-rule" />
            <DropdownMenu.Label className="px-2 py-1 text-[11.5px] text-ink2">
              From Marram Point
            </DropdownMenu.Label>
            {DEMOS.map((demo) => (
              <DropdownMenu.Item
                key={demo.name}
                onSelect={() => {
                  void open(demo)
                }}
              >
                {demo.name}
                <span className="text-ink2">{demo.tags?.[0]}</span>
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {failed && (
        <button type="button" className="btn !h-6" onClick={exportNow}>
          Export now
        </button>
      )}
      <input
        ref={input}
        type="file"
        hidden
        multiple
        accept={ACCEPTED}
        data-import=""
        data-testid="patch-file"
        onChange={(event) => {
          void importFiles([...(event.target.files ?? [])])
          event.target.value = ''
        }}
      />
    </>
  )
}

/** What lies over the document: how much, and where it may go. */
const Moved = memo(() => {
  const moved = useSession((state) => state.moved)
  if (moved === 0) return null
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="btn !h-6 whitespace-nowrap"
        title="Moved by controls or snapshots; the patch keeps what is set"
      >
        {moved} moved
        <ChevronDown size={12} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="menu" align="start" sideOffset={6}>
          {[keepMoved, backToSet].map((command) => (
            <DropdownMenu.Item
              key={command.name}
              onSelect={() => {
                command.run()
              }}
            >
              {command.name}
              <span className="text-ink2">{command.keys}</span>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
})

/** Silence lasts until somebody plays; this ends it for what plays by itself. */
const PlayOn = memo(() => {
  const silenced = useSession((state) => state.silenced)
  return silenced ? (
    <button
      type="button"
      className="btn !h-6 whitespace-nowrap"
      title="Everything was silenced; a note or the transport ends it too"
      onClick={() => {
        engine.playOn()
      }}
    >
      Play on
    </button>
  ) : null
})

const Transport = () => {
  const running = useSession((state) => state.running)
  const set = useSession((state) => state.set)
  const tempo = useDocument((state) => state.patch.tempo ?? 120)
  const change = useDocument((state) => state.change)
  return (
    <div className="flex items-center gap-1">
      <button
        type="button"
        className="iconbtn"
        aria-label={running ? 'Stop the transport' : 'Start the transport'}
        title="Transport (Space)"
        onClick={() => {
          set({ running: !running })
          engine.setTransport(!running)
        }}
      >
        {running ? <Square size={13} fill="currentColor" /> : <Play size={14} fill="currentColor" />}
      </button>
      <input
        key={tempo}
        className="mono w-12 border-0 bg-transparent p-0 text-right text-[13px]"
        aria-label="Tempo in beats per minute"
        defaultValue={tempo.toFixed(1)}
        onFocus={(event) => {
          event.target.select()
        }}
        onKeyDown={(event) => {
          event.stopPropagation()
          if (event.key === 'Enter' || event.key === 'Escape') event.currentTarget.blur()
        }}
        onBlur={(event) => {
          const value = Number(event.target.value.replace(',', '.'))
          if (value >= 20 && value <= 300)
            change('Set the tempo', (draft) => {
              draft.tempo = value
            })
          else {
            toast.error('The tempo goes from 20 to 300 bpm.')
            event.target.value = tempo.toFixed(1)
          }
        }}
      />
      <span className="text-ink2">bpm</span>
    </div>
  )
}

/** Output level with peak hold, load and ear guard; drawn on the frame loop. */
const Meter = memo(() => {
  const canvas = useRef<HTMLCanvasElement>(null),
    number = useRef<HTMLSpanElement>(null),
    load = useRef<HTMLSpanElement>(null),
    lamp = useRef<HTMLButtonElement>(null)
  const guard = useSession((state) => state.guard)
  useEffect(() => {
    let left = 0,
      right = 0,
      holdLeft = 0,
      holdRight = 0,
      limitedAt = -1e9,
      frames = 0,
      loadNow = -1,
      hold = 0,
      stopped = false
    const stop = engine.subscribe((report) => {
      left = Math.max(left, report.peakLeft)
      right = Math.max(right, report.peakRight)
      if (report.limited) limitedAt = performance.now()
      loadNow = report.load
      if (report.stopped && !stopped)
        toast.error('The sound was stopped: it was far too loud before the ear guard.', {
          description: 'Turn something down, then press Esc twice to start again.',
          duration: 12000,
        })
      stopped = report.stopped
    })
    const ratio = Math.min(2, window.devicePixelRatio || 1)
    canvas.current!.width = 132 * ratio
    canvas.current!.height = 16 * ratio
    const stopPainting = registerPainter(() => {
      const context = canvas.current!.getContext('2d')!
      context.setTransform(ratio, 0, 0, ratio, 0, 0)
      context.clearRect(0, 0, 132, 16)
      const x = (peak: number): number =>
        132 * Math.min(1, Math.max(0, 1 + (20 * Math.log10(Math.max(1e-6, peak))) / 60))
      hold += 1
      if (hold > 60) {
        holdLeft *= 0.97
        holdRight *= 0.97
      }
      if (left > holdLeft || right > holdRight) hold = 0
      holdLeft = Math.max(holdLeft, left)
      holdRight = Math.max(holdRight, right)
      for (const [y, peak, held] of [
        [2, left, holdLeft],
        [9, right, holdRight],
      ] as const) {
        context.fillStyle = colour('rule')
        context.fillRect(0, y, 132, 5)
        context.fillStyle = colour('audio')
        context.fillRect(0, y, x(peak), 5)
        context.fillStyle = colour('ink')
        context.fillRect(x(held), y - 1, 1.5, 7)
      }
      left *= 0.9
      right *= 0.9
      frames += 1
      if (frames % 10 === 0) {
        const most = Math.max(holdLeft, holdRight)
        number.current!.textContent =
          most < 1e-4 ? '−∞' : (20 * Math.log10(most)).toFixed(1).replace('-', '−')
        load.current!.textContent = loadNow < 0 ? '–' : `${Math.round(loadNow * 100)} %`
        lamp.current!.dataset['lit'] = String(performance.now() - limitedAt < 400)
      }
    })
    const stopWatching = watchOverruns()
    return () => {
      stop()
      stopPainting()
      stopWatching()
    }
  }, [])
  return (
    <div className="flex items-center gap-3">
      <button
        type="button"
        className="border-0 bg-transparent p-0 text-right leading-tight"
        title="Share of one core the sound takes. Click to measure every module."
        aria-label="Measure the load of every module"
        onClick={() => {
          void showLoads('What the patch costs')
        }}
      >
        <span ref={load} className="mono block">
          –
        </span>
        <span className="block text-[11px] text-ink2">load</span>
      </button>
      <canvas ref={canvas} style={{ width: 132, height: 16 }} role="img" aria-label="Output level" />
      <span ref={number} className="mono w-10 text-right text-[13px]" title="Highest peak in dBFS">
        −∞
      </span>
      <button
        ref={lamp}
        type="button"
        className="h-6 rounded-[3px] border px-2 text-[12px] data-[lit=true]:bg-warn data-[lit=true]:text-card"
        style={{
          borderColor: guard ? 'var(--accent)' : 'var(--warn)',
          color: guard ? undefined : 'var(--warn)',
        }}
        aria-pressed={guard}
        title={
          guard
            ? 'Ear guard: limits the output to −1 dBFS. Lit while it works.'
            : 'The ear guard is off for this session.'
        }
        onClick={() => {
          const next = !guard
          if (
            !next &&
            !window.confirm('Switch the ear guard off for this session? Loud sounds will not be held back.')
          )
            return
          engine.setGuard(next)
          useSession.getState().set({ guard: next })
        }}
      >
        {guard ? 'guard' : 'guard off'}
      </button>
    </div>
  )
})

const TakeRow = ({ take }: { take: Take }) => (
  <li className="flex items-center gap-3 py-1">
    <span className="min-w-0 flex-1 truncate">{take.name}</span>
    <span className="mono text-ink2">{(take.left.length / take.rate).toFixed(1)} s</span>
    <button
      type="button"
      className="btn !h-6"
      onClick={() => {
        download(
          `${fileName(take.name)}.wav`,
          new Blob([writeWav({ rate: take.rate, channels: [take.left, take.right] }, '24') as BlobPart], {
            type: 'audio/wav',
          }),
        )
      }}
    >
      WAV
    </button>
  </li>
)

const Recorder = () => {
  const recording = useSession((state) => state.recording),
    takes = useSession((state) => state.takes)
  const set = useSession((state) => state.set)
  const toggle = async (): Promise<void> => {
    if (recording) {
      engine.stopRecording()
      set({ recording: false })
      return
    }
    await engine.start()
    set({ recording: true })
    engine.startRecording((left, right) => {
      const { takes: before } = useSession.getState()
      const take: Take = {
        id: before.length + 1,
        name: `${useDocument.getState().patch.name} take ${before.length + 1}`,
        rate: engine.sampleRate,
        left,
        right,
        at: Date.now(),
      }
      useSession.getState().set({ takes: [...before, take] })
      toast.success(`${take.name}, ${(left.length / take.rate).toFixed(1)} s`, {
        description: 'Download it from the list of takes beside the record button.',
      })
    })
  }
  return (
    <div className="flex items-center">
      <button
        type="button"
        className="iconbtn"
        style={{ color: 'var(--warn)' }}
        aria-pressed={recording}
        aria-label={recording ? 'Stop recording' : 'Record the output'}
        title={recording ? 'Stop recording' : 'Record the output'}
        onClick={() => {
          void toggle()
        }}
      >
        {recording ? (
          <Square size={15} fill="currentColor" />
        ) : (
          <Circle size={17} fill="currentColor" strokeWidth={1} />
        )}
      </button>
      <Popover.Root>
        <Popover.Trigger className="iconbtn mono !min-w-6" aria-label={`${takes.length} takes`} title="Takes">
          {takes.length}
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content className="menu w-[300px] !p-3" align="end" sideOffset={6}>
            <h2 className="panel-title mb-1">Takes</h2>
            {takes.length === 0 ? (
              <p className="text-ink2">Press record, play, press it again: the take appears here.</p>
            ) : (
              <ul className="m-0 list-none p-0">
                {takes.map((take) => (
                  <TakeRow key={take.id} take={take} />
                ))}
              </ul>
            )}
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </div>
  )
}

const VIEWS = [
  ['/', 'Bench'],
  ['/guide', 'Guide'],
  ['/devices', 'Devices'],
] as const

export const TopBar = () => {
  const history = useDocument((state) => state.history)
  const { drawer, inspector, dock, theme, set } = useSession()
  const night = isNight(theme)
  return (
    <header className="flex h-11 shrink-0 items-center gap-4 border-b border-rule bg-card px-3">
      <Mark />
      <nav className="flex h-full items-stretch gap-1" aria-label="Views">
        {VIEWS.map(([path, label]) => (
          <NavLink
            key={path}
            to={path}
            end
            className="nav flex items-center px-2 text-[13.5px] text-ink2 no-underline"
          >
            {label}
          </NavLink>
        ))}
      </nav>
      <PatchMenu />
      <div className="flex items-center">
        <button
          type="button"
          className="iconbtn"
          aria-label="Undo"
          title={`Undo ${history.past.at(-1)?.name ?? ''} (Ctrl+Z)`}
          disabled={!undoCommand.can()}
          onClick={() => {
            undoCommand.run()
          }}
        >
          <Undo2 size={16} />
        </button>
        <button
          type="button"
          className="iconbtn"
          aria-label="Redo"
          title="Redo (Ctrl+Shift+Z)"
          disabled={!redoCommand.can()}
          onClick={() => {
            redoCommand.run()
          }}
        >
          <Redo2 size={16} />
        </button>
      </div>
      <Moved />
      <Transport />
      <div className="ml-auto flex items-center gap-0.5">
        <button
          type="button"
          className="iconbtn"
          aria-pressed={drawer}
          aria-label="Parts drawer"
          title="Parts"
          onClick={() => {
            set({ drawer: !drawer })
          }}
        >
          <PanelLeft size={15} />
        </button>
        <button
          type="button"
          className="iconbtn"
          aria-pressed={dock}
          aria-label="Dock"
          title="Dock"
          onClick={() => {
            set({ dock: !dock })
          }}
        >
          <PanelBottom size={15} />
        </button>
        <button
          type="button"
          className="iconbtn"
          aria-pressed={inspector}
          aria-label="Inspector"
          title="Inspector"
          onClick={() => {
            set({ inspector: !inspector })
          }}
        >
          <PanelRight size={15} />
        </button>
        <button
          type="button"
          className="iconbtn"
          aria-label={night ? 'Day' : 'Night'}
          title={night ? 'Day' : 'Night'}
          onClick={() => {
            set({ theme: night ? 'day' : 'night' })
          }}
        >
          {night ? <Sun size={15} /> : <Moon size={15} />}
        </button>
        <button
          type="button"
          className="iconbtn"
          aria-label="Shortcuts"
          title="Shortcuts (?)"
          onClick={() => {
            set({ shortcuts: true })
          }}
        >
          <Keyboard size={15} />
        </button>
      </div>
      <PlayOn />
      <Meter />
      <Recorder />
    </header>
  )
}
