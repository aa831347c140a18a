/* eslint max-lines: ["error", 500] -- one thing: what one cable brings */
// What one cable brings to an input: its source in the shape of the input, weighted, and faded where it comes or goes.
import {
  ADAPTER_FADE,
  ADAPTER_SIDES,
  ADAPTER_VOICES,
  FADE_FRAMES,
  MAPPING_COPY,
  MAPPING_SAME,
  MAPPING_SUM,
  MAPPING_WIDEN,
  ROLE_ARRIVING,
  ROLE_LEAVING,
  ROLE_STEADY,
  TERM_AMOUNT,
  TERM_AMOUNT_REMAINING,
  TERM_MAPPING,
  TERM_ROLE,
  TERM_SOURCE,
  TERM_SOURCE_SIDES,
  TERM_SOURCE_VOICES,
  ROLE_BASE,
  STEAL_SECONDS,
  TERM_HELD,
  TERM_STEALS,
} from "./abi";
import { add, higher, lower, madd, mul, splat, sub } from "./simd.as";
import { arrive, setOut, wayAt } from "./ramp.as";
import { Signal } from "./signal.as";
import { scratch } from "./scratch.as";
import { sampleRate, wake } from "./time.as";

/** Gathers one vector of the destination's lanes from a source of another shape. */
function gather(term: usize, source: Signal, voices: u32, sides: u32, group: u32, frame: u32): v128 {
  const sourceVoices = load<u32>(term, TERM_SOURCE_VOICES);
  const sourceSides = load<u32>(term, TERM_SOURCE_SIDES);
  const row = scratch(15);
  for (let k: u32 = 0; k < 4; ++k) {
    const lane = (group << 2) + k;
    const voice = sides == 2 ? lane >> 1 : lane;
    const side = sides == 2 ? lane & 1 : 0;
    let sum: f32 = 0;
    if (voice < voices) {
      // One voice here, several there: they are summed. One there, several here: it is copied.
      const first: u32 = voices == 1 ? 0 : sourceVoices == 1 ? 0 : voice;
      const last: u32 = voices == 1 ? sourceVoices : first + 1;
      for (let v = first; v < last && v < sourceVoices; ++v) {
        if (sides == 1 && sourceSides == 2)
          sum += 0.5 * (laneOf(source, v << 1, frame) + laneOf(source, (v << 1) + 1, frame));
        else sum += laneOf(source, sourceSides == 2 ? (v << 1) + side : v, frame);
      }
    }
    store<f32>(row + (k << 2), sum);
  }
  return v128.load(row);
}


@inline function laneOf(signal: Signal, lane: u32, frame: u32): f32 {
  return load<f32>(signal.row(lane >> 2, frame) + ((lane & 3) << 2));
}

/** True when a source is constant in every group the mapping reads. */
export function termIsConstant(term: usize, group: u32): bool {
  const source = changetype<Signal>(<usize>load<u32>(term, TERM_SOURCE));
  if (load<i32>(term, TERM_AMOUNT_REMAINING) > 0) return false;
  const mapping = load<u32>(term, TERM_MAPPING);
  if (mapping == MAPPING_SAME) return source.isConstant(group);
  if (mapping == MAPPING_COPY) return source.isConstant(0);
  if (mapping == MAPPING_WIDEN) return source.isConstant(group >> 1);
  const steals = <usize>load<u32>(term, TERM_STEALS);
  if (steals != 0 && isStealing(steals)) return false;
  const lanes = load<u32>(term, TERM_SOURCE_VOICES) * load<u32>(term, TERM_SOURCE_SIDES);
  for (let g: u32 = 0; g < (lanes + 3) >> 2; ++g) if (!source.isConstant(g)) return false;
  return true;
}

/** The vector a term brings at a frame, before its amount. */
@inline function termVector(
  term: usize,
  source: Signal,
  mapping: u32,
  voices: u32,
  sides: u32,
  group: u32,
  frame: u32,
): v128 {
  if (mapping == MAPPING_SAME) return v128.load(source.row(group, frame));
  if (mapping == MAPPING_COPY) {
    const x = v128.load(source.row(0, frame));
    return sides == 2 ? v128.shuffle<i32>(x, x, 0, 1, 0, 1) : v128.shuffle<i32>(x, x, 0, 0, 0, 0);
  }
  if (mapping == MAPPING_WIDEN) {
    const x = v128.load(source.row(group >> 1, frame));
    return group & 1 ? v128.shuffle<i32>(x, x, 2, 2, 3, 3) : v128.shuffle<i32>(x, x, 0, 0, 1, 1);
  }
  if (mapping == MAPPING_SUM) return voiceSum(term, source, frame);
  return gather(term, source, voices, sides, group, frame);
}

/** Sum of all voices of a source at a frame, in the first voice's lanes (both sides equal where it is mono). */
@inline function voiceSum(term: usize, source: Signal, frame: u32): v128 {
  const lanes = load<u32>(term, TERM_SOURCE_VOICES) * load<u32>(term, TERM_SOURCE_SIDES);
  let sum = splat(0);
  for (let g: u32 = 0, groups = (lanes + 3) >> 2; g < groups; ++g) {
    let x = v128.load(source.row(g, frame));
    // Lanes beyond the last voice may hold anything.
    if ((g + 1) << 2 > lanes)
      x = v128.and(x, i32x4.gt_s(i32x4.splat(<i32>(lanes - (g << 2))), i32x4(0, 1, 2, 3)));
    sum = add(sum, x);
  }
  sum = add(sum, v128.shuffle<i32>(sum, sum, 2, 3, 0, 1));
  if (load<u32>(term, TERM_SOURCE_SIDES) == 1) sum = add(sum, v128.shuffle<i32>(sum, sum, 1, 0, 3, 2));
  return sum;
}

/** True when every group of a voice sum moves. */
function isMoving(term: usize, source: Signal): bool {
  const lanes = load<u32>(term, TERM_SOURCE_VOICES) * load<u32>(term, TERM_SOURCE_SIDES);
  for (let g: u32 = 0, groups = (lanes + 3) >> 2; g < groups; ++g) if (source.isConstant(g)) return false;
  return true;
}

/** As `voiceSum`, times its amount, for a whole row: what every patch with voices ends in. */
function sumVoices(
  term: usize,
  source: Signal,
  amount: v128,
  row: usize,
  frame: u32,
  frames: u32,
  first: bool,
): void {
  const sides = load<u32>(term, TERM_SOURCE_SIDES),
    lanes = load<u32>(term, TERM_SOURCE_VOICES) * sides,
    last = ((lanes + 3) >> 2) - 1;
  // Lanes beyond the last voice may hold anything.
  const used = i32x4.gt_s(i32x4.splat(<i32>(lanes - (last << 2))), i32x4(0, 1, 2, 3));
  const stride = source.stride;
  let p = source.row(0, frame);
  for (let end = row + (frames << 4); row < end; row += 16, p += 16) {
    let sum = splat(0),
      q = p;
    for (const lastAt = p + last * stride; q < lastAt; q += stride) sum = add(sum, v128.load(q));
    sum = add(sum, v128.and(v128.load(q), used));
    sum = add(sum, v128.shuffle<i32>(sum, sum, 2, 3, 0, 1));
    if (sides == 1) sum = add(sum, v128.shuffle<i32>(sum, sum, 1, 0, 3, 2));
    const y = bounded(mul(amount, sum));
    v128.store(row, first ? y : add(v128.load(row), y));
  }
}

/** True while a voice of this sum fades because it was stolen. */
@inline function isStealing(steals: usize): bool {
  return v128.any_true(
    v128.or(
      v128.or(v128.load(steals), v128.load(steals, 16)),
      v128.or(v128.load(steals, 32), v128.load(steals, 48)),
    ),
  );
}

/** How much of a group's lanes is still the sample held when their voice was stolen, at frame `f` of the segment. */
function heldShare(steals: usize, sides: u32, group: u32, f: u32): v128 {
  const row = scratch(15) + 16;
  for (let k: u32 = 0; k < 4; ++k) {
    const lane = (group << 2) + k,
      voice = sides == 2 ? lane >> 1 : lane;
    const left = voice < 16 ? load<i32>(steals + (voice << 2)) - <i32>f : 0;
    store<f32>(row + (k << 2), <f32>max(left, 0));
  }
  return mul(v128.load(row), splat(1 / max<f32>(nearest<f32>(<f32>STEAL_SECONDS * sampleRate), 1)));
}

/** The sum of all voices while stolen ones fade over from their last sample. */
function fadingSum(term: usize, source: Signal, frame: u32): v128 {
  const sides = load<u32>(term, TERM_SOURCE_SIDES),
    lanes = load<u32>(term, TERM_SOURCE_VOICES) * sides;
  const steals = <usize>load<u32>(term, TERM_STEALS),
    held = <usize>load<u32>(term, TERM_HELD);
  let sum = splat(0);
  for (let g: u32 = 0, groups = (lanes + 3) >> 2; g < groups; ++g) {
    let x = v128.load(source.row(g, frame));
    x = madd(sub(v128.load(held + (g << 4)), x), lower(heldShare(steals, sides, g, frame), splat(1)), x);
    if ((g + 1) << 2 > lanes)
      x = v128.and(x, i32x4.gt_s(i32x4.splat(<i32>(lanes - (g << 2))), i32x4(0, 1, 2, 3)));
    sum = add(sum, x);
  }
  sum = add(sum, v128.shuffle<i32>(sum, sum, 2, 3, 0, 1));
  return sides == 1 ? add(sum, v128.shuffle<i32>(sum, sum, 1, 0, 3, 2)) : sum;
}

/** Keeps the last sample of every lane of a voice sum, but not of those that fade from theirs. */
function holdLanes(term: usize, source: Signal, last: u32): void {
  const sides = load<u32>(term, TERM_SOURCE_SIDES),
    lanes = load<u32>(term, TERM_SOURCE_VOICES) * sides;
  const steals = <usize>load<u32>(term, TERM_STEALS),
    held = <usize>load<u32>(term, TERM_HELD);
  const stealing = isStealing(steals);
  for (let g: u32 = 0, groups = (lanes + 3) >> 2; g < groups; ++g) {
    const x = v128.load(source.row(g, last)),
      at = held + (g << 4);
    v128.store(
      at,
      stealing
        ? v128.bitselect(v128.load(at), x, f32x4.gt(heldShare(steals, sides, g, last + 1), splat(0)))
        : x,
    );
  }
}

/** Weight of a term at a frame: its amount, moved over 15 ms, times its cross-fade. */
@inline export function weightAt(term: usize, frame: i32, fadeLeft: i32): f32 {
  let weight = load<f32>(term, TERM_AMOUNT);
  const left = load<i32>(term, TERM_AMOUNT_REMAINING) - 1 - frame;
  if (left > 0) weight -= wayAt(term + TERM_AMOUNT, left);
  const role = load<u32>(term, TERM_ROLE);
  if (role == ROLE_LEAVING || role == ROLE_ARRIVING) {
    // x^5 (126 - 420x + 540x^2 - 315x^3 + 70x^4): four derivatives begin and end at 0, both sides add up to 1, and what is
    // new has time to ring out before it is heard. What is late is waited for: the fade is longer by that.
    const x = <f32>min(max(fadeLeft - frame, 0), FADE_FRAMES) * (<f32>1 / <f32>FADE_FRAMES),
      square = x * x;
    const out = square * square * x * (126 - x * (420 - x * (540 - x * (315 - 70 * x))));
    weight *= role == ROLE_LEAVING ? out : 1 - out;
  }
  return weight;
}

/**
 * No cable brings more than this, however much it multiplies: kernels may square what they get. It is more than a state
 * may hold, so that a module which takes it in is cleared.
 */
const MOST: f32 = 1e16;


@inline export function bounded(x: v128): v128 {
  return lower(higher(x, splat(-MOST)), splat(MOST));
}

/** Adds a term into a row of vectors. `frame` counts from the segment's start, `row` from this call's. */
export function accumulate(
  adapter: usize,
  term: usize,
  row: usize,
  group: u32,
  frame: u32,
  frames: u32,
  first: bool,
): void {
  const voices = load<u32>(adapter, ADAPTER_VOICES);
  const sides = load<u32>(adapter, ADAPTER_SIDES);
  const fade = load<i32>(adapter, ADAPTER_FADE);
  const role = load<u32>(term, TERM_ROLE);
  const source = changetype<Signal>(<usize>load<u32>(term, TERM_SOURCE));
  const mapping = load<u32>(term, TERM_MAPPING);
  const steady =
    load<i32>(term, TERM_AMOUNT_REMAINING) <= 0 && (role == ROLE_STEADY || role == ROLE_BASE || fade <= 0);
  const steals = <usize>load<u32>(term, TERM_STEALS);
  if (steady && mapping <= <u32>MAPPING_COPY) {
    const amount = splat(weightAt(term, 0, 0));
    let p = source.row(mapping == MAPPING_SAME ? group : 0, frame);
    const step = source.step(mapping == MAPPING_SAME ? group : 0);
    const copy = mapping == MAPPING_COPY;
    for (let f: u32 = 0; f < frames; ++f) {
      let x = v128.load(p);
      if (copy) x = sides == 2 ? v128.shuffle<i32>(x, x, 0, 1, 0, 1) : v128.shuffle<i32>(x, x, 0, 0, 0, 0);
      const y = bounded(mul(amount, x));
      v128.store(row + (f << 4), first ? y : add(v128.load(row + (f << 4)), y));
      p += step;
    }
    return;
  }
  const fades = steals != 0 && isStealing(steals);
  if (steady && mapping == MAPPING_SUM && !fades && isMoving(term, source)) {
    sumVoices(term, source, splat(weightAt(term, 0, 0)), row, frame, frames, first);
    if (steals) holdLanes(term, source, frame + frames - 1);
    return;
  }
  for (let f: u32 = 0; f < frames; ++f) {
    const amount = splat(weightAt(term, <i32>(frame + f), fade));
    const x = fades
      ? fadingSum(term, source, frame + f)
      : termVector(term, source, mapping, voices, sides, group, frame + f);
    const y = bounded(mul(amount, x));
    v128.store(row + (f << 4), first ? y : add(v128.load(row + (f << 4)), y));
  }
  if (steals) holdLanes(term, source, frame + frames - 1);
}
/** Starts a change of a cable's amount over `frames`. */
export function setAmount(term: usize, amount: f32, frames: i32): void {
  wake();
  const left = load<i32>(term, TERM_AMOUNT_REMAINING);
  let from = load<f32>(term, TERM_AMOUNT);
  if (left > 0) from -= wayAt(term + TERM_AMOUNT, left);
  if (from == amount) arrive(term + TERM_AMOUNT, amount);
  else setOut(term + TERM_AMOUNT, amount, amount - from, frames);
}

/** Counts the fades of stolen voices down; 1 while any is left. */
export function countSteals(steals: usize, frames: i32): u32 {
  let left = splat(0);
  for (let o: usize = 0; o < 64; o += 16) {
    const now = i32x4.max_s(i32x4.sub(v128.load(steals + o), i32x4.splat(frames)), i32x4.splat(0));
    v128.store(steals + o, now);
    left = v128.or(left, now);
  }
  return v128.any_true(left) ? 1 : 0;
}
