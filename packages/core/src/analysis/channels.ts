/** The channel with the most energy: what a measurement of one channel is taken from. Silence where there is none. */
export const loudestChannel = (channels: readonly Float32Array[]): Float32Array => {
  const energy = (x: Float32Array): number => x.reduce((sum, y) => sum + y * y, 0)
  return channels.reduce(
    (best, other) => (energy(other) > energy(best) ? other : best),
    channels[0] ?? new Float32Array(),
  )
}
