import { ARRANGE_COMMANDS } from './arrange.ts'
import { CLIP_COMMANDS } from './clip.ts'
import type { Command } from './command.ts'
import { EDIT_COMMANDS } from './edit.ts'
import { GROUP_COMMANDS } from './groups.ts'
import { LOOK_COMMANDS } from './look.ts'
import { MARK_COMMANDS } from './marks.ts'
import { MODULE_COMMANDS } from './modules.ts'
import { PATCH_COMMANDS } from './patch.ts'
import { PLAY_COMMANDS } from './play.ts'
import { PROBE_COMMANDS } from './probe.ts'
import { SILENCE_COMMANDS } from './silence.ts'
import { TIDY_COMMANDS } from './tidy.ts'

/** Every command there is. */
export const COMMANDS: readonly Command[] = [
  ...PATCH_COMMANDS,
  ...EDIT_COMMANDS,
  ...CLIP_COMMANDS,
  ...MODULE_COMMANDS,
  ...GROUP_COMMANDS,
  ...TIDY_COMMANDS,
  ...ARRANGE_COMMANDS,
  ...MARK_COMMANDS,
  ...LOOK_COMMANDS,
  ...PLAY_COMMANDS,
  ...PROBE_COMMANDS,
  ...SILENCE_COMMANDS,
]
