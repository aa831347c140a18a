import {
  Keyboard,
  Moon,
  PanelBottom,
  PanelLeft,
  PanelRight,
  Redo2,
  Search,
  SlidersHorizontal,
  Sun,
  Undo2,
  VolumeX,
} from 'lucide-react'
import { memo } from 'react'
import { NavLink } from 'react-router'
import { useShallow } from 'zustand/react/shallow'
import { isShown, type Panel } from '../../store/workspace.ts'
import { Mark } from '../../ui/icons.tsx'
import { IconButton } from '../../ui/button.tsx'
import { Menu } from '../../ui/menu.tsx'
import { commandEntry } from '../command-entry.ts'
import { CommandMark } from '../command-button.tsx'
import { useApp, useDocument, useWorkspace } from '../context.ts'
import { VIEWS } from '../views.ts'
import { useNight } from '../use-night.ts'
import { Guard, Meter, SoundHeld } from './meter.tsx'
import { PatchMenu } from './patch-menu.tsx'
import { Recorder } from './recorder.tsx'
import { Moved, PlayOn, Transport } from './transport.tsx'

const Views = () => (
  <nav className="flex h-full items-stretch gap-1" aria-label="Views">
    {VIEWS.map(({ path, label }) => (
      <NavLink key={path} to={path} end className="nav flex items-center px-2 text-13 text-ink2 no-underline">
        {label}
      </NavLink>
    ))}
  </nav>
)

const Steps = memo(() => {
  const last = useDocument((state) => state.history.past.at(-1)?.name),
    next = useDocument((state) => state.history.future[0]?.name)
  return (
    <div className="flex items-center">
      <CommandMark command="undo" tip={`Undo ${last ?? ''}`} isDisabled={last === undefined}>
        <Undo2 size={16} />
      </CommandMark>
      <CommandMark command="redo" tip={`Redo ${next ?? ''}`} isDisabled={next === undefined}>
        <Redo2 size={16} />
      </CommandMark>
    </div>
  )
})

const PANELS: readonly { readonly panel: Panel; readonly label: string; readonly Mark: typeof PanelLeft }[] =
  [
    { panel: 'parts', label: 'Parts', Mark: PanelLeft },
    { panel: 'dock', label: 'Dock', Mark: PanelBottom },
    { panel: 'inspector', label: 'Inspector', Mark: PanelRight },
  ]
/** What the looks are in a narrow window: one menu. */
const LOOKS = ['panel-parts', 'panel-dock', 'panel-inspector', 'theme', 'palette', 'shortcuts']

const WideLooks = memo(() => {
  const shown = useWorkspace(useShallow((state) => PANELS.filter(({ panel }) => isShown(state, panel)))),
    night = useNight()
  return (
    <div className="wide-only items-center gap-0.5">
      {PANELS.map(({ panel, label, Mark: PanelMark }) => (
        <CommandMark
          key={panel}
          command={`panel-${panel}`}
          label={label}
          isPressed={shown.some((item) => item.panel === panel)}
        >
          <PanelMark size={15} />
        </CommandMark>
      ))}
      <CommandMark command="theme" label={night ? 'Day' : 'Night'}>
        {night ? <Sun size={15} /> : <Moon size={15} />}
      </CommandMark>
      <CommandMark command="palette">
        <Search size={15} />
      </CommandMark>
      <CommandMark command="shortcuts">
        <Keyboard size={15} />
      </CommandMark>
    </div>
  )
})

const NarrowLooks = () => {
  const app = useApp()
  return (
    <div className="narrow-only">
      <Menu
        parts={[{ entries: LOOKS.map((id) => commandEntry(app, id)) }]}
        align="end"
        onClosed={app.afterMenu}
        trigger={
          <IconButton label="Panels, theme and commands">
            <SlidersHorizontal size={15} />
          </IconButton>
        }
      />
    </div>
  )
}

/** Views, the patch, its steps, playing, looks, level and recording. */
export const TopBar = () => (
  <header className="top-bar">
    <Mark />
    <Views />
    <PatchMenu />
    <Steps />
    <Moved />
    <Transport />
    <span className="ml-auto" />
    <WideLooks />
    <NarrowLooks />
    <SoundHeld />
    <PlayOn />
    <CommandMark command="silence">
      <VolumeX size={15} />
    </CommandMark>
    <div className="flex items-center gap-2">
      <Meter />
      <Guard />
    </div>
    <Recorder />
  </header>
)
