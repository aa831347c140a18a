// The one adapter: adds what ends on a port or parameter, fits its shape, and maps it to plain units.
import {
  ADAPTER_FADE,
  ADAPTER_FROM,
  ADAPTER_STEP,
  ADAPTER_STRIDE,
  ADAPTER_TO,
  ADAPTER_GROUPS,
  ADAPTER_PARAM,
  ADAPTER_SIDES,
  ADAPTER_SIGNAL,
  ADAPTER_TERM_COUNT,
  ADAPTER_TERMS,
  ADAPTER_VOICES,
  FADE_FRAMES,
  FIT,
  GROUP_BYTES,
  UNFIT,
  MAPPING_COPY,
  MAPPING_SAME,
  MAPPING_SUM,
  MAPPING_WIDEN,
  MODE_OCTAVES,
  MODE_SWITCH,
  MODE_TIME,
  PARAM_BASE,
  PARAM_FACTOR,
  PARAM_LEAST,
  PARAM_LISTED,
  PARAM_MAX,
  PARAM_MIN,
  PARAM_MODE,
  PARAM_MODULATED,
  PARAM_REMAINING,
  PARAM_SIGNAL,
  PARAM_SMOOTHING,
  ROLE_ARRIVING,
  ROLE_LEAVING,
  ROLE_STEADY,
  TERM_AMOUNT,
  TERM_AMOUNT_REMAINING,
  TERM_BYTES,
  TERM_MAPPING,
  TERM_ROLE,
  TERM_SOURCE,
  TERM_SOURCE_SIDES,
  TERM_SOURCE_VOICES,
  MAX_GROUPS,
  ADAPTER_REST,
  ROLE_BASE,
  STEAL_SECONDS,
  TERM_HELD,
  TERM_STEALS,
} from "./abi";
import { add, clamp, exp2, higher, log2, lower, madd, mul, splat, sub } from "./simd.as";
import { arrive, setOut, wayAt, wayLeft } from "./ramp.as";
import { Signal } from "./signal.as";
import { scratch } from "./scratch.as";
import { restAllowed, sampleRate, segment, wake, wakeNow, wokenAt } from "./time.as";

/** Base values of a parameter at four numbers of frames before its ramp ends; those after the end are its value. */
@inline function basesAt(param: usize, left: v128): v128 {
  const base = splat(load<f32>(param, PARAM_BASE));
  const way = wayLeft(param, higher(left, splat(0)));
  const mode = load<u32>(param, PARAM_MODE);
  let moved = sub(base, way);
  if (mode == MODE_OCTAVES) moved = mul(base, exp2(f32x4.neg(way)));
  else if (mode == MODE_TIME) {
    const least = splat(load<f32>(param, PARAM_LEAST));
    moved = sub(mul(add(base, least), exp2(f32x4.neg(way))), least);
  }
  return v128.bitselect(moved, base, f32x4.gt(left, splat(0)));
}

/** Base value of a parameter `left` frames before its ramp ends. */
@inline function baseAt(param: usize, left: i32): f32 {
  if (left <= 0) return load<f32>(param, PARAM_BASE);
  return f32x4.extract_lane(basesAt(param, splat(<f32>left)), 0);
}

/** Octaves between two values above 0. */
function octavesBetween(from: f32, to: f32): f32 {
  return f32x4.extract_lane(log2(splat(to)), 0) - f32x4.extract_lane(log2(splat(from)), 0);
}

/** How far it is from one set value to another, in what a parameter moves in. */
function distanceOf(param: usize, from: f32, to: f32): f32 {
  const mode = load<u32>(param, PARAM_MODE);
  if (mode == MODE_OCTAVES) return octavesBetween(from, to);
  const least = load<f32>(param, PARAM_LEAST);
  return mode == MODE_TIME ? octavesBetween(from + least, to + least) : to - from;
}

/** Starts a change of a set value: over its smoothing time, or at once. `value` in plain units. */
export function setParam(param: usize, value: f32, glide: i32): void {
  wake();
  const from = baseAt(param, load<i32>(param, PARAM_REMAINING));
  const frames = glide >= 0 ? glide : load<i32>(param, PARAM_SMOOTHING);
  if (frames > 0 && from != value) setOut(param, value, distanceOf(param, from, value), frames);
  else arrive(param, value);
  if (!load<u32>(param, PARAM_MODULATED) && !load<u32>(param, PARAM_LISTED)) {
    listParam(param);
  }
}

/** The value a parameter is set to, before modulation, at this moment. */
export function paramNow(param: usize): f32 {
  return baseAt(param, load<i32>(param, PARAM_REMAINING));
}

/** The value a parameter has, modulation included, in the first lane at the end of the last segment. */
export function paramHeard(param: usize): f32 {
  if (!load<u32>(param, PARAM_MODULATED) || !heardFrames) return paramNow(param);
  return load<f32>(changetype<Signal>(<usize>load<u32>(param, PARAM_SIGNAL)).row(0, heardFrames - 1));
}
/** Frames of the last segment; 0 before the first. */
let heardFrames: u32 = 0;
export function heard(frames: u32): void {
  heardFrames = frames;
}

let movingList: usize = 0;
let movingCount: u32 = 0;

/** The list of set values on the move: memory for as many pointers as there are parameters. */
export function setMovingList(list: usize, count: u32): void {
  movingList = list;
  movingCount = count;
}
export function movingParams(): u32 {
  return movingCount;
}

/** Puts a set value on the list, so that the next segment writes it. */
export function listParam(param: usize): void {
  store<u32>(param, 1, PARAM_LISTED);
  store<u32>(movingList + (movingCount << 2), <u32>param);
  ++movingCount;
}

function setStrides(signal: Signal, stride: u32): void {
  signal.markChanged();
  for (let g: u32 = 0; g < <u32>MAX_GROUPS; ++g) signal.setStep(g, stride);
}

/** Writes the next `frames` of every set value on the move; those that arrived leave the list. */
export function moveParams(frames: u32): void {
  let kept: u32 = 0;
  if (movingCount) wakeNow();
  for (let i: u32 = 0; i < movingCount; ++i) {
    const param = <usize>load<u32>(movingList + (i << 2));
    if (load<u32>(param, PARAM_MODULATED)) {
      store<u32>(param, 0, PARAM_LISTED);
      continue;
    }
    const signal = changetype<Signal>(<usize>load<u32>(param, PARAM_SIGNAL));
    const remaining = load<i32>(param, PARAM_REMAINING);
    const data = signal.start(0);
    if (remaining <= 0) {
      v128.store(data, splat(load<f32>(param, PARAM_BASE)));
      setStrides(signal, 0);
      store<u32>(param, 0, PARAM_LISTED);
      continue;
    }
    for (let f: u32 = 0; f < frames; f += 4) {
      const left = splat(<f32>(remaining - 1 - <i32>f));
      const four = basesAt(param, sub(left, f32x4(0, 1, 2, 3)));
      v128.store(data + (f << 4), v128.shuffle<i32>(four, four, 0, 0, 0, 0));
      v128.store(data + (f << 4), v128.shuffle<i32>(four, four, 1, 1, 1, 1), 16);
      v128.store(data + (f << 4), v128.shuffle<i32>(four, four, 2, 2, 2, 2), 32);
      v128.store(data + (f << 4), v128.shuffle<i32>(four, four, 3, 3, 3, 3), 48);
    }
    setStrides(signal, 16);
    store<i32>(param, remaining - <i32>frames, PARAM_REMAINING);
    store<u32>(movingList + (kept << 2), <u32>param);
    ++kept;
  }
  movingCount = kept;
}

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
function termIsConstant(term: usize, group: u32): bool {
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
  const stride = source.start(1) - source.start(0);
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
@inline function weightAt(term: usize, frame: i32, fadeLeft: i32): f32 {
  let weight = load<f32>(term, TERM_AMOUNT);
  const left = load<i32>(term, TERM_AMOUNT_REMAINING) - 1 - frame;
  if (left > 0) weight -= wayAt(term + TERM_AMOUNT, left);
  const role = load<u32>(term, TERM_ROLE);
  if (role == ROLE_LEAVING || role == ROLE_ARRIVING) {
    // x^5 (126 - 420x + 540x^2 - 315x^3 + 70x^4): four derivatives begin and end at 0, both sides add up to 1, and what is
    // new has time to ring out before it is heard.
    const x = <f32>max(fadeLeft - frame, 0) * (<f32>1 / <f32>FADE_FRAMES),
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


@inline function bounded(x: v128): v128 {
  return lower(higher(x, splat(-MOST)), splat(MOST));
}

/** Adds a term into a row of vectors. `frame` counts from the segment's start, `row` from this call's. */
function accumulate(
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
