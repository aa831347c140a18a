// The one adapter: adds what ends on a port or parameter, fits its shape, and maps it to plain units.
import {
  ADAPTER_FADE,
  ADAPTER_FROM,
  ADAPTER_STEP,
  ADAPTER_STRIDE,
  ADAPTER_TO,
  ADAPTER_GROUPS,
  ADAPTER_PARAM,
  ADAPTER_SIGNAL,
  ADAPTER_TERM_COUNT,
  ADAPTER_TERMS,
  FIT,
  GROUP_BYTES,
  UNFIT,
  MAPPING_SAME,
  MODE_OCTAVES,
  MODE_SWITCH,
  MODE_TIME,
  PARAM_BASE,
  PARAM_FACTOR,
  PARAM_LEAST,
  PARAM_MAX,
  PARAM_MIN,
  PARAM_MODE,
  PARAM_REMAINING,
  ROLE_STEADY,
  TERM_AMOUNT,
  TERM_AMOUNT_REMAINING,
  TERM_BYTES,
  TERM_MAPPING,
  TERM_ROLE,
  TERM_SOURCE,
  ADAPTER_REST,
  ROLE_BASE,
} from "./abi";
import { add, clamp, exp2, madd, mul, splat, sub } from "./simd.as";
import { Signal } from "./signal.as";
import { scratch } from "./scratch.as";
import { restAllowed, segment, wokenAt } from "./time.as";
import { baseAt } from "./params.as";
import { accumulate, bounded, termIsConstant, weightAt } from "./terms.as";


@inline function mapped(mode: u32, base: v128, modulation: v128, least: v128, low: v128, high: v128): v128 {
  if (mode == MODE_OCTAVES) return clamp(mul(base, exp2(modulation)), low, high);
  // Written so that a modulation of 0 gives exactly the base.
  if (mode == MODE_TIME)
    return clamp(madd(add(base, least), sub(exp2(modulation), splat(1)), base), low, high);
  if (mode == MODE_SWITCH) return v128.and(f32x4.gt(modulation, splat(0.5)), splat(1));
  return clamp(add(base, modulation), low, high);
}

/** Maps a row of modulation to plain units, in place. `bases`: a row of base values from a field formula, or 0. */
function mapRow(
  param: usize,
  row: usize,
  bases: usize,
  out: usize,
  factor: usize,
  frame: u32,
  frames: u32,
): void {
  const mode = load<u32>(param, PARAM_MODE);
  const low = splat(load<f32>(param, PARAM_MIN));
  const high = splat(load<f32>(param, PARAM_MAX));
  const least = splat(load<f32>(param, PARAM_LEAST));
  const remaining = load<i32>(param, PARAM_REMAINING);
  let base = splat(baseAt(param, 0));
  for (let f: u32 = 0; f < frames; ++f) {
    if (remaining > 0) base = splat(baseAt(param, remaining - 1 - <i32>(frame + f)));
    let modulation = v128.load(row + (f << 4));
    if (bases) {
      base = v128.load(bases + (f << 4));
      if (mode == MODE_SWITCH) modulation = add(modulation, base);
    }
    if (factor) v128.store(factor + (f << 4), exp2(modulation));
    v128.store(out + (f << 4), mapped(mode, base, modulation, least, low, high));
  }
}

/** True when a parameter's modulation is one steady cable of its own shape: then it is mapped in one pass. */
@inline function isSimple(adapter: usize, terms: usize, count: u32): bool {
  return (
    count == 1 &&
    load<u32>(terms, TERM_ROLE) != ROLE_BASE &&
    load<u32>(terms, TERM_MAPPING) == MAPPING_SAME &&
    load<i32>(terms, TERM_AMOUNT_REMAINING) <= 0 &&
    (load<u32>(terms, TERM_ROLE) == ROLE_STEADY || load<i32>(adapter, ADAPTER_FADE) <= 0)
  );
}

/** base × 2^(amount × source), within its range. */
// @ts-ignore: decorator
@inline function octavesAt(base: v128, amount: v128, source: usize, low: v128, high: v128): v128 {
  return clamp(mul(base, exp2(mul(amount, v128.load(source)))), low, high);
}

/** Maps amount × source to plain units in one pass. */
function mapSimple(param: usize, source: usize, stride: usize, amount: v128, out: usize, frames: u32): void {
  const mode = load<u32>(param, PARAM_MODE);
  const low = splat(load<f32>(param, PARAM_MIN)),
    high = splat(load<f32>(param, PARAM_MAX)),
    least = splat(load<f32>(param, PARAM_LEAST)),
    base = splat(baseAt(param, 0));
  const end = out + (frames << 4);
  if (mode == MODE_OCTAVES) {
    // Four at a time: they share the constants of the power, and none waits for another.
    for (const most = out + ((frames & ~3) << 4); out < most; out += 64) {
      const a = octavesAt(base, amount, source, low, high),
        b = octavesAt(base, amount, source + stride, low, high),
        c = octavesAt(base, amount, source + 2 * stride, low, high),
        d = octavesAt(base, amount, source + 3 * stride, low, high);
      v128.store(out, a);
      v128.store(out, b, 16);
      v128.store(out, c, 32);
      v128.store(out, d, 48);
      source += stride << 2;
    }
    for (; out < end; out += 16) {
      v128.store(out, octavesAt(base, amount, source, low, high));
      source += stride;
    }
    return;
  }
  for (; out < end; out += 16) {
    v128.store(out, mapped(mode, base, mul(amount, v128.load(source)), least, low, high));
    source += stride;
  }
}

/** Runs an adapter for one group; true when its result is constant. */
function adaptGroup(adapter: usize, group: u32, frame: u32, frames: u32): bool {
  const count = load<u32>(adapter, ADAPTER_TERM_COUNT);
  const terms = <usize>load<u32>(adapter, ADAPTER_TERMS);
  const param = <usize>load<u32>(adapter, ADAPTER_PARAM);
  const signal = changetype<Signal>(<usize>load<u32>(adapter, ADAPTER_SIGNAL));
  const factorSignal: usize = param ? load<u32>(param, PARAM_FACTOR) : 0;
  let constant = load<i32>(adapter, ADAPTER_FADE) <= 0 && (!param || load<i32>(param, PARAM_REMAINING) <= 0);
  for (let t: u32 = 0; constant && t < count; ++t) constant = termIsConstant(terms + t * TERM_BYTES, group);
  const length: u32 = constant ? 1 : frames;
  const row = scratch(14);
  const out: usize = constant ? row : signal.write(group, frame);
  if (
    param &&
    !factorSignal &&
    !constant &&
    load<i32>(param, PARAM_REMAINING) <= 0 &&
    isSimple(adapter, terms, count)
  ) {
    const source = changetype<Signal>(<usize>load<u32>(terms, TERM_SOURCE));
    mapSimple(param, source.row(group, frame), source.step(group), splat(weightAt(terms, 0, 0)), out, frames);
    return false;
  }
  let bases: usize = 0,
    first = true;
  for (let t: u32 = 0; t < count; ++t) {
    const term = terms + t * TERM_BYTES;
    if (load<u32>(term, TERM_ROLE) == ROLE_BASE) {
      bases = scratch(12);
      accumulate(adapter, term, bases, group, frame, length, true);
      continue;
    }
    accumulate(adapter, term, param ? row : out, group, frame, length, first);
    first = false;
  }
  if (first) for (let f: u32 = 0; f < length; ++f) v128.store((param ? row : out) + (f << 4), splat(0));
  if (param) {
    const factor: usize = factorSignal
      ? constant
        ? scratch(13)
        : changetype<Signal>(factorSignal).write(group, frame)
      : 0;
    mapRow(param, row, bases, out, factor, frame, length);
    if (constant && factorSignal)
      changetype<Signal>(factorSignal).fill(group, frame, frames, v128.load(factor));
  }
  if (constant) signal.fill(group, frame, frames, v128.load(out));
  return constant;
}

/** True when nothing this adapter reads has changed since it began to rest. */
function mayRest(adapter: usize, terms: usize): bool {
  const since = load<u32>(adapter, ADAPTER_REST);
  if (since < wokenAt || !restAllowed) return false;
  for (let t: u32 = 0, count = load<u32>(adapter, ADAPTER_TERM_COUNT); t < count; ++t) {
    if (!changetype<Signal>(<usize>load<u32>(terms + t * TERM_BYTES, TERM_SOURCE)).isQuietSince(since))
      return false;
  }
  return true;
}

export function adapt(adapter: usize, frame: u32, frames: u32): void {
  const groups = load<u32>(adapter, ADAPTER_GROUPS);
  const terms = <usize>load<u32>(adapter, ADAPTER_TERMS);
  if (mayRest(adapter, terms)) return;
  let resting = true;
  for (let g: u32 = 0; g < groups; ++g) if (!adaptGroup(adapter, g, frame, frames)) resting = false;
  if (resting && !changetype<Signal>(<usize>load<u32>(adapter, ADAPTER_SIGNAL)).isFixed)
    store<u32>(adapter, segment, ADAPTER_REST);
}

/** Fit for running frame by frame while it is one steady cable, to a port or a parameter that is not moved itself. */
export function adaptReady(adapter: usize, frames: u32): u32 {
  const terms = <usize>load<u32>(adapter, ADAPTER_TERMS),
    param = <usize>load<u32>(adapter, ADAPTER_PARAM);
  if (param && (load<i32>(param, PARAM_REMAINING) > 0 || load<u32>(param, PARAM_FACTOR))) return UNFIT;
  const source = changetype<Signal>(<usize>load<u32>(terms, TERM_SOURCE));
  if (
    !isSimple(adapter, terms, load<u32>(adapter, ADAPTER_TERM_COUNT)) ||
    !source.isUniform(load<u32>(adapter, ADAPTER_GROUPS))
  )
    return UNFIT;
  store<u32>(adapter, source.start(0), ADAPTER_FROM);
  store<u32>(adapter, source.step(0), ADAPTER_STEP);
  store<u32>(adapter, source.stride, ADAPTER_STRIDE);
  store<u32>(adapter, changetype<Signal>(<usize>load<u32>(adapter, ADAPTER_SIGNAL)).start(0), ADAPTER_TO);
  return FIT;
}

/** One frame of an adapter that is fit for it. */
export function adaptFrame(adapter: usize, f: u32): void {
  const param = <usize>load<u32>(adapter, ADAPTER_PARAM),
    groups = load<u32>(adapter, ADAPTER_GROUPS),
    stride = <usize>load<u32>(adapter, ADAPTER_STRIDE),
    amount = splat(load<f32>(load<u32>(adapter, ADAPTER_TERMS), TERM_AMOUNT));
  let p = <usize>load<u32>(adapter, ADAPTER_FROM) + f * load<u32>(adapter, ADAPTER_STEP),
    out = <usize>load<u32>(adapter, ADAPTER_TO) + (f << 4);
  if (!param) {
    for (const end = out + groups * GROUP_BYTES; out < end; out += GROUP_BYTES, p += stride)
      v128.store(out, bounded(mul(amount, v128.load(p))));
    return;
  }
  const mode = load<u32>(param, PARAM_MODE),
    base = splat(load<f32>(param, PARAM_BASE)),
    least = splat(load<f32>(param, PARAM_LEAST)),
    low = splat(load<f32>(param, PARAM_MIN)),
    high = splat(load<f32>(param, PARAM_MAX));
  for (const end = out + groups * GROUP_BYTES; out < end; out += GROUP_BYTES, p += stride)
    v128.store(out, mapped(mode, base, mul(amount, v128.load(p)), least, low, high));
}

/** Moves an adapter's ramps and fades on, once a segment (loops call `adapt` several times in one). */
export function settle(adapter: usize, frame: u32, frames: u32): void {
  const count = load<u32>(adapter, ADAPTER_TERM_COUNT);
  const terms = <usize>load<u32>(adapter, ADAPTER_TERMS);
  const fade = load<i32>(adapter, ADAPTER_FADE);
  if (fade > 0) store<i32>(adapter, max(fade - <i32>frames, 0), ADAPTER_FADE);
  for (let t: u32 = 0; t < count; ++t) {
    const term = terms + t * TERM_BYTES;
    const left = load<i32>(term, TERM_AMOUNT_REMAINING);
    if (left > 0) store<i32>(term, left - <i32>frames, TERM_AMOUNT_REMAINING);
  }
  const param = <usize>load<u32>(adapter, ADAPTER_PARAM);
  if (param) {
    const left = load<i32>(param, PARAM_REMAINING);
    if (left > 0) store<i32>(param, left - <i32>frames, PARAM_REMAINING);
  }
}
