// One section of the state-variable filter over a block, and its outputs.
import { add, higher, lower, madd, mul, splat, sub } from "../../../kernels/simd.as";

/** Combines the states of one section into the output of a type: 0 low, 1 band, 2 high, 3 notch, 4 peak, 5 morph. */
@inline export function outputOf(kind: u32, x: v128, v1: v128, v2: v128, k: v128, morph: v128): v128 {
  if (kind == 0) return v2;
  const band = mul(k, v1);
  if (kind == 1) return band;
  const high = sub(sub(x, band), v2);
  if (kind == 2) return high;
  if (kind == 3) return add(v2, high);
  if (kind == 4) return sub(v2, high);
  const first = sub(splat(1), lower(add(morph, morph), splat(1)));
  const last = higher(sub(add(morph, morph), splat(1)), splat(0));
  const middle = sub(splat(1), add(first, last));
  return add(add(mul(first, v2), mul(middle, band)), mul(last, high));
}

/** One section over a block: `kind` output of `source` into `target`, with states at `state`. */
@inline function section(
  kind: u32,
  source: usize,
  sourceStride: usize,
  target: usize,
  state: usize,
  g: usize,
  a1: usize,
  k: usize,
  stride: usize,
  kStride: usize,
  morph: usize,
  morphStride: usize,
  frames: u32,
): void {
  let one = v128.load(state),
    two = v128.load(state, 16);
  for (let f: u32 = 0; f < frames; ++f) {
    const x = v128.load(source);
    const gg = v128.load(g),
      aa = v128.load(a1);
    const v3 = sub(x, two);
    const v1 = mul(aa, madd(gg, v3, one));
    const v2 = madd(gg, v1, two);
    one = sub(add(v1, v1), one);
    two = sub(add(v2, v2), two);
    v128.store(target + (f << 4), outputOf(kind, x, v1, v2, v128.load(k), v128.load(morph)));
    source += sourceStride;
    g += stride;
    a1 += stride;
    k += kStride;
    morph += morphStride;
  }
  v128.store(state, one);
  v128.store(state, two, 16);
}

/** The same with the kind chosen outside the loop. */
export function runSection(
  kind: u32,
  source: usize,
  sourceStride: usize,
  target: usize,
  state: usize,
  g: usize,
  a1: usize,
  k: usize,
  stride: usize,
  kStride: usize,
  morph: usize,
  morphStride: usize,
  frames: u32,
): void {
  switch (kind) {
    case 0:
      section(0, source, sourceStride, target, state, g, a1, k, stride, kStride, morph, morphStride, frames);
      break;
    case 1:
      section(1, source, sourceStride, target, state, g, a1, k, stride, kStride, morph, morphStride, frames);
      break;
    case 2:
      section(2, source, sourceStride, target, state, g, a1, k, stride, kStride, morph, morphStride, frames);
      break;
    case 3:
      section(3, source, sourceStride, target, state, g, a1, k, stride, kStride, morph, morphStride, frames);
      break;
    case 4:
      section(4, source, sourceStride, target, state, g, a1, k, stride, kStride, morph, morphStride, frames);
      break;
    default:
      section(5, source, sourceStride, target, state, g, a1, k, stride, kStride, morph, morphStride, frames);
  }
}
