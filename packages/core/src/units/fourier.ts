import { exactCosine, exactSine } from './exact.ts'

/** In-place complex transform of a power of two: x = Σ X e^(+j2πkn/N) for direction 1, unscaled. The same on every machine. */
export const exactTransform = (re: Float64Array, im: Float64Array, direction: 1 | -1): void => {
  const size = re.length
  for (let i = 0, j = 0; i < size; i += 1) {
    if (i < j) {
      const r = re[i]!,
        m = im[i]!
      re[i] = re[j]!
      im[i] = im[j]!
      re[j] = r
      im[j] = m
    }
    let bit = size >> 1
    while (j & bit) {
      j ^= bit
      bit >>= 1
    }
    j |= bit
  }
  const { cos, sin } = twiddles(size)
  for (let length = 2; length <= size; length *= 2) {
    const half = length / 2,
      stride = size / length
    for (let start = 0; start < size; start += length) {
      for (let k = 0; k < half; k += 1) {
        const a = start + k,
          b = a + half,
          wr = cos[k * stride]!,
          wi = direction * sin[k * stride]!
        const br = re[b]! * wr - im[b]! * wi,
          bi = re[b]! * wi + im[b]! * wr
        re[b] = re[a]! - br
        im[b] = im[a]! - bi
        re[a] = re[a]! + br
        im[a] = im[a]! + bi
      }
    }
  }
}

const known = new Map<number, { cos: Float64Array; sin: Float64Array }>()
const twiddles = (size: number): { cos: Float64Array; sin: Float64Array } => {
  let found = known.get(size)
  if (!found) {
    found = {
      cos: Float64Array.from({ length: size / 2 }, (_, k) => exactCosine(k / size)),
      sin: Float64Array.from({ length: size / 2 }, (_, k) => exactSine(k / size)),
    }
    known.set(size, found)
  }
  return found
}
