// Renders the recordings that demo patches and templates bring along, by other patches of Marram Point.
import { spawnSync } from 'node:child_process'
import { copyFileSync, mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { root } from './ready.mjs'

/** One bar of 100 beats a minute at the quay: hammers on slate, large and small. */
const HAMMERS =
  '38@0+0.2:0.9 62@0.3+0.1:0.35 50@0.6+0.2:0.8 57@0.9+0.1:0.5 38@1.05+0.2:0.6 50@1.2+0.2:0.85 62@1.5+0.1:0.4 45@1.8+0.2:0.75 57@1.95+0.1:0.45 64@2.1+0.1:0.3'
const folder = join(root, 'demo/patches/assets')
mkdirSync(folder, { recursive: true })
const { status } = spawnSync(
  process.execPath,
  [
    'ypsilon',
    'render',
    'demo/patches/slate-drum.ypatch.json',
    '--play',
    HAMMERS,
    '--seconds',
    '2.4',
    '--rate',
    '32000',
    '--bits',
    '16',
    '--out',
    join(folder, 'quay-loop.wav'),
  ],
  { cwd: root, stdio: 'inherit' },
)
const templates = join(root, 'demo/templates/assets')
mkdirSync(templates, { recursive: true })
copyFileSync(join(folder, 'quay-loop.wav'), join(templates, 'quay-loop.wav'))
process.exit(status ?? 1)
