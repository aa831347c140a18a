// Set values of parameters: changed smoothly or at once, and written where nothing modulates them.
import {
  MODE_OCTAVES,
  MODE_TIME,
  PARAM_BASE,
  PARAM_LEAST,
  PARAM_LISTED,
  PARAM_MODE,
  PARAM_MODULATED,
  PARAM_REMAINING,
  PARAM_SIGNAL,
  PARAM_SMOOTHING,
  MAX_GROUPS,
} from "./abi";
import { add, exp2, higher, log2, mul, splat, sub } from "./simd.as";
import { arrive, setOut, wayLeft } from "./ramp.as";
import { Signal } from "./signal.as";
import { wake, wakeNow } from "./time.as";

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
@inline export function baseAt(param: usize, left: i32): f32 {
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
