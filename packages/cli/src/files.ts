import { readFileSync, writeFileSync, renameSync, rmSync } from 'node:fs'
import { strFromU8, unzipSync } from 'fflate'
import { faultText, parsePatch, type Patch } from '@ypsilon/core'
import { BadInput } from './bad-input.ts'

const REASONS: Readonly<Record<string, string>> = {
  ENOENT: 'there is no such file or folder', EACCES: 'permission is missing', EISDIR: 'this is a folder', ENOSPC: 'the disk is full', ENOTDIR: 'a part of the path is not a folder', EROFS: 'the file system is read-only',
}

const reason = (error: unknown): string => REASONS[(error as NodeJS.ErrnoException).code ?? ''] ?? (error as Error).message

export const readBytes = (file: string): Uint8Array => {
  try { return readFileSync(file) } catch (error) { throw new BadInput([`${file}: ${reason(error)}`]) }
}

/** Writes beside and renames, so that a file is whole or not there. */
export const writeBytes = (file: string, bytes: Uint8Array): void => {
  const beside = `${file}.part-${process.pid}`
  try {
    writeFileSync(beside, bytes)
    renameSync(beside, file)
  } catch (error) {
    rmSync(beside, { force: true })
    throw new BadInput([`${file}: ${reason(error)}`])
  }
}

/** Reads and checks a patch file or a patch archive; every fault on a line of its own. */
export const loadPatch = (file: string): { patch: Patch; warnings: string[] } => {
  const bytes = readBytes(file)
  let text: string
  if (bytes[0] === 0x50 && bytes[1] === 0x4b) {
    let entry: Uint8Array | undefined
    try { entry = unzipSync(bytes)['patch.json'] } catch (error) { throw new BadInput([`${file}: the archive cannot be read (${(error as Error).message})`]) }
    if (!entry) throw new BadInput([`${file}: there is no patch.json in the archive`])
    text = strFromU8(entry)
  } else {
    text = new TextDecoder().decode(bytes)
  }
  const result = parsePatch(text)
  if (!result.ok) throw new BadInput(result.faults.map((fault) => `${file}: ${faultText(fault)}`))
  return { patch: result.value, warnings: result.warnings.map(faultText) }
}

let compiled: WebAssembly.Module | undefined
/** The kernels, beside this program. */
export const kernels = (): WebAssembly.Module => {
  compiled ??= new WebAssembly.Module(readFileSync(new URL('./kernels.wasm', import.meta.url)) as unknown as BufferSource)
  return compiled
}
