// Rings of single samples, written and read four frames at a time where they stand one after another. A ring of a power
// of two of samples has four more behind its end, copies of its first, so that four in a row can be read anywhere.

/** Samples behind the end of a ring: four, and as many as keep rings in a row out of one another's way in the cache. */
const BEHIND: u32 = 16;
/** Bytes of a ring of so many samples. */
@inline export function fourBytes(samples: u32): usize {
  return (<usize>(samples + BEHIND)) << 2;
}
/** Frames of this chunk: up to the next absolute multiple of four. */
@inline export function chunkOf(now: u32, left: u32): u32 {
  return min<u32>(4 - (now & 3), left);
}

/** Writes `count` samples from `now` on, which do not cross a multiple of four; `first` is lane 0 of `x`. */
@inline export function writeFour(ring: usize, mask: u32, now: u32, count: u32, x: v128): void {
  const at = now & mask,
    p = ring + ((<usize>at) << 2);
  if (count == 4) {
    v128.store(p, x);
    if (at == 0) v128.store(ring + ((<usize>(mask + 1)) << 2), x);
    return;
  }
  writeFew(ring, mask, now, count, x);
}

function writeFew(ring: usize, mask: u32, now: u32, count: u32, x: v128): void {
  v128.store(spare, x);
  for (let f: u32 = 0; f < count; ++f) {
    const at = (now + f) & mask,
      y = load<f32>(spare + (f << 2));
    store<f32>(ring + ((<usize>at) << 2), y);
    if (at < 4) store<f32>(ring + ((<usize>(mask + 1 + at)) << 2), y);
  }
}
const spare: usize = memory.data(16, 16);

/** The samples `back` frames before `now` and the three after it. Those still to come are anything. */
@inline export function readFour(ring: usize, mask: u32, now: u32, back: u32): v128 {
  return v128.load(ring + ((<usize>((now - back) & mask)) << 2));
}

/** One sample between samples: four-point, third-order Lagrange at fraction `f` behind `back`, which is 1 at least. */
@inline export function readBetween(ring: usize, mask: u32, now: u32, back: u32, f: f32): f32 {
  const x0 = load<f32>(ring + ((<usize>((now - back + 1) & mask)) << 2)),
    x1 = load<f32>(ring + ((<usize>((now - back) & mask)) << 2)),
    x2 = load<f32>(ring + ((<usize>((now - back - 1) & mask)) << 2)),
    x3 = load<f32>(ring + ((<usize>((now - back - 2) & mask)) << 2));
  return cubicBetween(x0, x1, x2, x3, f);
}

/** Four-point, third-order Lagrange at fraction `f` behind x1. */
export function cubicBetween(x0: f32, x1: f32, x2: f32, x3: f32, f: f32): f32 {
  const third: f32 = 1.0 / 3.0,
    sixth: f32 = 1.0 / 6.0,
    half: f32 = 0.5;
  const c1: f32 = x2 - x0 * third - x1 * half - x3 * sixth,
    c2: f32 = half * (x0 + x2) - x1,
    c3: f32 = sixth * (x3 - x0) + half * (x1 - x2);
  return ((c3 * f + c2) * f + c1) * f + x1;
}
