// Oversampling for shaping kernels: 4 times live, 8 times at best quality.
//
// Each doubling is a half-band filter of two all-pass chains (polyphase IIR), elliptic, after Valenzuela &
// Constantinides, "Digital signal processing schemes for efficient interpolation and decimation" (1983). About three
// samples of delay at low frequencies, so a driven layer still adds up with a clean one. The first stage passes
// 20.4 kHz at 48 kHz and stops 100 dB from 27.6 kHz on; later stages have room and need fewer sections.
import { oversampling } from "./time.as";
import { add, madd, mul, splat, sub } from "./simd.as";

/** Sections of the three stages, all even. */
const FIRST: i32 = 8,
  LATER: i32 = 4,
  LAST: i32 = 2;
/** Vectors of state an oversampled channel needs: three stages up and three down. */
export const OVERSAMPLE_VECTORS: u32 = 48;
const STAGE_VECTORS: usize = 12 * 16,
  LATER_VECTORS: usize = 6 * 16;
const DOWN: usize = 24 * 16;

/** Coefficients of the stages, each in four lanes. */
const coefficients: usize = memory.data(4 * 8 * 16, 16);
/** A first stage of short delay: passes 17 kHz at 48 kHz and stops from 31 kHz on. */
const LIGHT: i32 = 4,
  LIGHT_AT: usize = 384;
/** Two rows of 1024 vectors to work in; nothing in them outlives a call. */
const rowA: usize = memory.data(1024 * 16 + 64, 16);
const rowB: usize = memory.data(1024 * 16 + 64, 16);

/** Elliptic half-band coefficients for a transition of `width` (share of the doubled rate, around a quarter of it). */
function design(at: usize, count: i32, width: f64): void {
  const t = Math.tan(((1.0 - 2.0 * width) * Math.PI) / 4.0);
  const k = t * t;
  const root = Math.sqrt(Math.sqrt(1.0 - k * k));
  const e = (0.5 * (1.0 - root)) / (1.0 + root);
  const e4 = e * e * e * e;
  const q = e * (1.0 + e4 * (2.0 + e4 * (15.0 + 150.0 * e4)));
  const order = <f64>(2 * count + 1);
  for (let c = 1; c <= count; ++c) {
    let over = 0.0,
      under = 0.5;
    for (let i = 0; i < 12; ++i) {
      const sign = i & 1 ? -1.0 : 1.0;
      over +=
        sign * Math.pow(q, <f64>(i * (i + 1))) * Math.sin((<f64>(2 * i + 1) * <f64>c * Math.PI) / order);
      if (i > 0)
        under += sign * Math.pow(q, <f64>(i * i)) * Math.cos((2.0 * <f64>i * <f64>c * Math.PI) / order);
    }
    const w = (over * Math.sqrt(Math.sqrt(q))) / under;
    const w2 = w * w;
    const x = Math.sqrt((1.0 - w2 * k) * (1.0 - w2 / k)) / (1.0 + w2);
    v128.store(at + ((<usize>(c - 1)) << 4), splat(<f32>((1.0 - x) / (1.0 + x))));
  }
}

let designed = false;
export function prepareOversampling(): void {
  if (designed) return;
  designed = true;
  design(coefficients, FIRST, 0.075);
  design(coefficients + 128, LATER, 0.25);
  design(coefficients + 256, LAST, 0.375);
  design(coefficients + LIGHT_AT, LIGHT, 0.146);
}

/** One sample through a chain of every other section, from `first`; state: each section's last input, then the last output. */
@inline function chain(x: v128, table: usize, first: i32, count: i32, state: usize): v128 {
  let y = x;
  for (let i = first; i < count; i += 2) {
    const before = v128.load(state),
      after = v128.load(state, 16);
    const z = madd(v128.load(table + ((<usize>i) << 4)), sub(y, after), before);
    v128.store(state, y);
    y = z;
    state += 16;
  }
  v128.store(state, y);
  return y;
}


@inline function double(
  input: usize,
  output: usize,
  frames: u32,
  table: usize,
  count: i32,
  state: usize,
): void {
  const second = state + ((<usize>(count / 2 + 1)) << 4);
  for (let f: u32 = 0; f < frames; ++f) {
    const x = v128.load(input + (f << 4));
    v128.store(output + (f << 5), chain(x, table, 0, count, state));
    v128.store(output + (f << 5), chain(x, table, 1, count, second), 16);
  }
}


@inline function halve(
  input: usize,
  output: usize,
  frames: u32,
  table: usize,
  count: i32,
  state: usize,
): void {
  const second = state + ((<usize>(count / 2 + 1)) << 4);
  for (let f: u32 = 0; f < frames; ++f) {
    const a = chain(v128.load(input + (f << 5), 16), table, 0, count, state);
    const b = chain(v128.load(input + (f << 5)), table, 1, count, second);
    v128.store(output + (f << 4), mul(splat(0.5), add(a, b)));
  }
}


@inline function up(
  state: usize,
  source: usize,
  stride: usize,
  frames: u32,
  first: usize,
  sections: i32,
): usize {
  for (let f: u32 = 0; f < frames; ++f) v128.store(rowA + (f << 4), v128.load(source + f * stride));
  double(rowA, rowB, frames, first, sections, state);
  double(rowB, rowA, frames << 1, coefficients + 128, LATER, state + STAGE_VECTORS);
  if (oversampling < 8) return rowA;
  double(rowA, rowB, frames << 2, coefficients + 256, LAST, state + STAGE_VECTORS + LATER_VECTORS);
  return rowB;
}


@inline function down(
  state: usize,
  row: usize,
  target: usize,
  frames: u32,
  first: usize,
  sections: i32,
): void {
  let from = row,
    to = row == rowA ? rowB : rowA;
  const at = state + DOWN;
  if (oversampling == 8) {
    halve(from, to, frames << 2, coefficients + 256, LAST, at + STAGE_VECTORS + LATER_VECTORS);
    const other = from;
    from = to;
    to = other;
  }
  halve(from, to, frames << 1, coefficients + 128, LATER, at + STAGE_VECTORS);
  halve(to, target, frames, first, sections, at);
}

/** Brings `frames` of a signal to the higher rate; where they stand: `frames` times the factor vectors. */
export function upsample(state: usize, source: usize, stride: usize, frames: u32): usize {
  return up(state, source, stride, frames, coefficients, FIRST);
}
/** Brings what stands in the row of `upsample` back down, into `target`. */
export function downsample(state: usize, row: usize, target: usize, frames: u32): void {
  down(state, row, target, frames, coefficients, FIRST);
}
/** The same pair with the stage of short delay. */
export function upsampleLight(state: usize, source: usize, stride: usize, frames: u32): usize {
  return up(state, source, stride, frames, coefficients + LIGHT_AT, LIGHT);
}
export function downsampleLight(state: usize, row: usize, target: usize, frames: u32): void {
  down(state, row, target, frames, coefficients + LIGHT_AT, LIGHT);
}
