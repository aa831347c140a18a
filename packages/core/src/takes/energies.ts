/** Sum of squares up to every sample, so that stretches are two look-ups. */
export const energiesOf = (channels: readonly Float32Array[]): Float64Array => {
  const sums = new Float64Array((channels[0]?.length ?? 0) + 1)
  for (let n = 0; n + 1 < sums.length; n += 1) {
    let sum = sums[n]!
    for (const channel of channels) sum += channel[n]! * channel[n]!
    sums[n + 1] = sum
  }
  return sums
}
