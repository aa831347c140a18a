/** What is drawn of a recording. */

/** Loudest sample of all channels in each of `columns` equal parts, 0 where there is none. */
export const peaksOf = (channels: readonly Float32Array[], columns: number): number[] => {
  const frames = channels[0]?.length ?? 0
  return Array.from({ length: columns }, (_, n) => {
    const from = Math.floor((n * frames) / columns),
      to = Math.max(from + 1, Math.floor(((n + 1) * frames) / columns))
    let most = 0
    for (const channel of channels)
      for (let k = from; k < to && k < frames; k += 1) most = Math.max(most, Math.abs(channel[k]!))
    return Number.isFinite(most) ? most : 0
  })
}
