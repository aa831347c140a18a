/** Sound kept in a file: read anywhere it is what was written, silence beyond its ends, and nothing is left of it. */
import { mkdtempSync, readdirSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { FileSpool } from './file-spool.ts'

const folder = mkdtempSync(join(tmpdir(), 'ypsilon-spool-'))

describe('a spool in a file', () => {
  it('gives back any stretch of what was written in pieces of any length', async () => {
    const spool = new FileSpool(48000, 2, folder)
    const all = [0, 1].map((channel) => Float32Array.from({ length: 1000 }, (_, n) => n + channel / 2))
    for (let at = 0, size = 1; at < 1000; at += size, size = Math.min(1000 - at, 2 * size + 3))
      await spool.write(
        // Room that is used again: what is beyond does not count.
        all.map((channel) => Float32Array.of(...channel.subarray(at, at + size), 99, 99)),
        size,
      )
    const tape = await spool.end()
    expect([tape.rate, tape.channels, tape.frames]).toEqual([48000, 2, 1000])
    for (const [from, to] of [
      [0, 1000],
      [0, 1],
      [3, 4],
      [999, 1000],
      [5, 700],
      [500, 500],
    ] as const)
      expect(await tape.read(from, to)).toEqual(all.map((channel) => channel.slice(from, to)))
    const beyond = await tape.read(-2, 1002)
    expect([beyond[0]!.length, beyond[0]![1], beyond[0]![2], beyond[1]![1001], beyond[1]![1002]]).toEqual([
      1004, 0, 0, 999.5, 0,
    ])
    expect(readdirSync(folder)).toEqual([])
  })
  it('holds nothing where nothing was written', async () => {
    const tape = await new FileSpool(48000, 1, folder).end()
    expect(await tape.read(-1, 1)).toEqual([new Float32Array(2)])
  })
})
