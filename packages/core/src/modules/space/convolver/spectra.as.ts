// Spectra of two real sounds at once: one as the real part of a transform, one as its imaginary part. They stand in groups
// of bins, of each group all partitions one behind the other, so that sums over partitions read straight on. The first
// bin holds the mean as its real part and what is at half the rate as its imaginary one.
import { add, mul, splat, sub } from "../../../kernels/simd.as";
import { BINS, UNIT } from "./line.as";


@inline function reversed(x: v128): v128 {
  return v128.shuffle<i32>(x, x, 3, 2, 1, 0);
}

/**
 * Both spectra out of a transform of 2 × `bins` points at `re` and `im`, times `scale`, into groups of bins at `to`,
 * `groupBytes` from a group to the next; `second` bytes behind the first one the other, 0 where there is one only.
 */
export function separate(
  re: usize,
  im: usize,
  bins: u32,
  scale: f32,
  to: usize,
  groupBytes: usize,
  second: usize,
): void {
  const points = (<usize>bins) << 3,
    half = splat(0.5 * scale);
  store<f32>(re + points, load<f32>(re));
  store<f32>(im + points, load<f32>(im));
  for (let g: u32 = 0, groups = bins / BINS; g < groups; ++g) {
    const out = to + <usize>g * groupBytes;
    for (let n: usize = 0; n < 64; n += 16) {
      const k = ((<usize>(g * BINS)) << 2) + n,
        back = points - k - 12;
      const r = v128.load(re + k),
        i = v128.load(im + k),
        mirroredR = reversed(v128.load(re + back)),
        mirroredI = reversed(v128.load(im + back));
      v128.store(out + n, mul(half, add(r, mirroredR)));
      v128.store(out + n, mul(half, sub(i, mirroredI)), 64);
      if (second == 0) continue;
      v128.store(out + second + n, mul(half, add(i, mirroredI)));
      v128.store(out + second + n, mul(half, sub(mirroredR, r)), 64);
    }
  }
  const middle = (<usize>bins) << 2;
  store<f32>(to, scale * load<f32>(re + middle), 64);
  if (second) store<f32>(to + second, scale * load<f32>(im + middle), 64);
}

/** Sums of products over partitions: left real and imaginary, right real and imaginary, a unit each. */
const sums: usize = memory.data(2 * 128, 16);

/** Adds to sums at `to` what `count` partitions at `x` times as many at `h` give in a group. */
function addProducts(to: usize, x: usize, xStep: usize, h: usize, hStep: usize, count: u32): void {
  let r0 = v128.load(to),
    r1 = v128.load(to, 16),
    r2 = v128.load(to, 32),
    r3 = v128.load(to, 48),
    i0 = v128.load(to, 64),
    i1 = v128.load(to, 80),
    i2 = v128.load(to, 96),
    i3 = v128.load(to, 112);
  for (let n: u32 = 0; n < count; ++n) {
    let a = v128.load(x),
      b = v128.load(x, 64),
      c = v128.load(h),
      d = v128.load(h, 64);
    r0 = add(r0, sub(mul(a, c), mul(b, d)));
    i0 = add(i0, add(mul(a, d), mul(b, c)));
    a = v128.load(x, 16);
    b = v128.load(x, 80);
    c = v128.load(h, 16);
    d = v128.load(h, 80);
    r1 = add(r1, sub(mul(a, c), mul(b, d)));
    i1 = add(i1, add(mul(a, d), mul(b, c)));
    a = v128.load(x, 32);
    b = v128.load(x, 96);
    c = v128.load(h, 32);
    d = v128.load(h, 96);
    r2 = add(r2, sub(mul(a, c), mul(b, d)));
    i2 = add(i2, add(mul(a, d), mul(b, c)));
    a = v128.load(x, 48);
    b = v128.load(x, 112);
    c = v128.load(h, 48);
    d = v128.load(h, 112);
    r3 = add(r3, sub(mul(a, c), mul(b, d)));
    i3 = add(i3, add(mul(a, d), mul(b, c)));
    x += xStep;
    h += hStep;
  }
  v128.store(to, r0);
  v128.store(to, r1, 16);
  v128.store(to, r2, 32);
  v128.store(to, r3, 48);
  v128.store(to, i0, 64);
  v128.store(to, i1, 80);
  v128.store(to, i2, 96);
  v128.store(to, i3, 112);
}

/** What the mean and half the rate give, which have no imaginary part of their own. */
function endsOf(x: usize, xStep: usize, h: usize, hStep: usize, count: u32): void {
  for (let n: u32 = 0; n < count; ++n) {
    mean += load<f32>(x) * load<f32>(h);
    top += load<f32>(x, 64) * load<f32>(h, 64);
    x += xStep;
    h += hStep;
  }
}
let mean: f32 = 0;
let top: f32 = 0;

/** Partitions to be summed: spectra of what came in, in a ring of `slots` from `newest` on, and of a response. */
@unmanaged
export class Bank {
  /** Spectra of both sides, and of `channels` of the response. */
  inputs: usize;
  slots: u32;
  newest: u32;
  response: usize;
  channels: u32;
  /** Slots that a response has room for, and how many of them are summed. */
  room: u32;
  count: u32;
}
export const BANK: usize = memory.data(32, 16);

/** One side in and one channel of the response, in a group, added to a side out. */
function pairUp(bank: Bank, g: u32, input: u32, channel: u32, side: u32): void {
  const xStep = 2 * UNIT,
    hStep = <usize>bank.channels * UNIT,
    x = bank.inputs + <usize>(g * bank.slots) * xStep + <usize>input * UNIT,
    h = bank.response + <usize>(g * bank.room) * hStep + <usize>channel * UNIT,
    run = min(bank.count, bank.slots - bank.newest),
    to = sums + <usize>side * UNIT;
  addProducts(to, x + <usize>bank.newest * xStep, xStep, h, hStep, run);
  addProducts(to, x, xStep, h + <usize>run * hStep, hStep, bank.count - run);
  if (g != 0) return;
  endsOf(x + <usize>bank.newest * xStep, xStep, h, hStep, run);
  endsOf(x, xStep, h + <usize>run * hStep, hStep, bank.count - run);
}
/** A side of a group: mono responses for both, stereo ones each its own, four channels from both sides to both. */
function sideOf(bank: Bank, g: u32, side: u32): void {
  mean = 0;
  top = 0;
  if (bank.channels == 4) {
    pairUp(bank, g, 0, side, side);
    pairUp(bank, g, 1, 2 + side, side);
  } else pairUp(bank, g, side, bank.channels == 2 ? side : 0, side);
  if (g != 0) return;
  const to = sums + <usize>side * UNIT;
  store<f32>(to, mean);
  store<f32>(to, top, 64);
}

/** Groups from one to before another of both sides out, as one transform of 2 × `bins` points at `re` and `im`. */
export function sumGroups(bank: Bank, from: u32, to: u32, bins: u32, re: usize, im: usize): void {
  const points = (<usize>bins) << 3;
  for (let g = from; g < to; ++g) {
    memory.fill(sums, 0, 2 * UNIT);
    sideOf(bank, g, 0);
    sideOf(bank, g, 1);
    for (let n: usize = 0; n < 64; n += 16) {
      const k = ((<usize>(g * BINS)) << 2) + n,
        back = points - k - 12;
      const leftR = v128.load(sums + n),
        leftI = v128.load(sums + n, 64),
        rightR = v128.load(sums + n, 128),
        rightI = v128.load(sums + n, 192);
      v128.store(re + k, sub(leftR, rightI));
      v128.store(im + k, add(leftI, rightR));
      v128.store(re + back, reversed(add(leftR, rightI)));
      v128.store(im + back, reversed(sub(rightR, leftI)));
    }
    if (g != 0) continue;
    const middle = (<usize>bins) << 2;
    store<f32>(re, load<f32>(sums));
    store<f32>(im, load<f32>(sums, 128));
    store<f32>(re + middle, load<f32>(sums, 64));
    store<f32>(im + middle, load<f32>(sums, 192));
  }
}
