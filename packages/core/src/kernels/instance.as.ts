// How kernels reach their signals, settings and state. See abi.ts for the layout.
import { mixBits } from "./simd.as";
import {
  INSTANCE_AUX,
  INSTANCE_AUX_BYTES,
  INSTANCE_GROUPS,
  INSTANCE_SEED,
  INSTANCE_SIDES,
  INSTANCE_STATE,
  INSTANCE_STATE_VECTORS,
  INSTANCE_VOICES,
  SIGNAL_CABLED,
  SIGNAL_DATA,
  SIGNAL_FIXED,
  SIGNAL_GROUP_STRIDE,
  SIGNAL_STRIDES,
  SIGNAL_WANTED,
  SIGNAL_STAMP,
  INSTANCE_INPUT_COUNT,
  INSTANCE_OUTPUT_COUNT,
  INSTANCE_OUTPUTS,
  INSTANCE_FED_VOICES,
  INSTANCE_SOURCES,
  INSTANCE_SOURCE_COUNT,
  INSTANCE_PORTS,
  INSTANCE_REST,
  INSTANCE_TABLE,
} from "./abi";

export const pi: f64 = 3.141592653589793;
/** Frames per second of this engine. */
export let sampleRate: f32 = 48000;
/** Duration of one frame in seconds. */
export let framePeriod: f64 = 1.0 / 48000;
/**
 * Frames since the engine started; the first frame of the running segment. Comes round after 2^32 (a day at 48 kHz):
 * only differences and places in rings of powers of two may be taken from it.
 */
export let time: u32 = 0;
/** The same without coming round. */
export let frameNow: f64 = 0;
/** Oversampling of shapers: 4 live, 8 best. */
export let oversampling: u32 = 4;
/** Number of the running segment. */
export let segment: u32 = 1;
/** Whoever began to rest before this segment is awake. */
export let wokenAt: u32 = 1;
/** Switched off only to test that resting changes nothing. */
export let restAllowed: bool = true;

export function beginSegment(): void {
  ++segment;
}
/** Wakes everything: a value was set from outside. */
export function wake(): void {
  wokenAt = segment + 1;
}
/** Wakes everything in the segment that is running. */
export function wakeNow(): void {
  wokenAt = segment;
}
export function allowRest(allowed: u32): void {
  restAllowed = allowed != 0;
  wake();
}

/** Beats per frame, and beats since the transport's start at `beatFrame`. One straight line between changes, so that the beat of a frame never depends on how time was cut. */
export let beatsPerFrame: f64 = 0;
export let beats: f64 = 0;
export let beatFrame: u32 = 0;
/** The same of the external clock. */
export let outerBeatsPerFrame: f64 = 0;
export let outerBeats: f64 = 0;
export let outerFrame: u32 = 0;
export let outerRunning: u32 = 0;
/** Beats since the transport's start at frame `f` of the segment. */
// @ts-ignore: decorator
@inline export function beatAt(f: u32): f64 {
  return beats + <f64>(time + f - beatFrame) * beatsPerFrame;
}
// @ts-ignore: decorator
@inline export function outerBeatAt(f: u32): f64 {
  return outerBeats + <f64>(<i32>(time + f - outerFrame)) * outerBeatsPerFrame;
}
/** 1 while the transport runs. */
export let running: u32 = 1;
/** Counts transport starts and jumps, so that followers can begin anew. */
export let starts: u32 = 0;

export function setRate(rate: f32): void {
  sampleRate = rate;
  framePeriod = 1.0 / <f64>rate;
}
export function setTime(frame: f64): void {
  time = <u32>(<u64>frame);
  frameNow = frame;
}
export function setOversampling(factor: u32): void {
  oversampling = factor;
}
export let outerStarts: u32 = 0;
export function setOuterClock(
  position: f64,
  perFrame: f64,
  frame: u32,
  isRunning: u32,
  startCount: u32,
): void {
  outerStarts = startCount;
  outerBeats = position;
  outerBeatsPerFrame = perFrame;
  outerFrame = frame;
  outerRunning = isRunning;
}
export function setTransport(
  position: f64,
  perFrame: f64,
  frame: u32,
  isRunning: u32,
  startCount: u32,
): void {
  beatFrame = frame;
  beats = position;
  beatsPerFrame = perFrame;
  running = isRunning;
  starts = startCount;
}

// @ts-ignore: decorator
@inline export function signalAt(instance: usize, port: usize): usize {
  return load<u32>(instance + port);
}
// @ts-ignore: decorator
@inline export function groupsOf(instance: usize): u32 {
  return load<u32>(instance, INSTANCE_GROUPS);
}
// @ts-ignore: decorator
@inline export function voicesOf(instance: usize): u32 {
  return load<u32>(instance, INSTANCE_VOICES);
}
/** Most voices of anything that ends on the module, before they are summed for it. */
// @ts-ignore: decorator
@inline export function fedVoicesOf(instance: usize): u32 {
  return load<u32>(instance, INSTANCE_FED_VOICES);
}
// @ts-ignore: decorator
@inline export function sidesOf(instance: usize): u32 {
  return load<u32>(instance, INSTANCE_SIDES);
}
// @ts-ignore: decorator
@inline export function seedOf(instance: usize): u32 {
  return load<u32>(instance, INSTANCE_SEED);
}
// @ts-ignore: decorator
@inline export function auxOf(instance: usize): usize {
  return load<u32>(instance, INSTANCE_AUX);
}
// @ts-ignore: decorator
@inline export function auxBytesOf(instance: usize): u32 {
  return load<u32>(instance, INSTANCE_AUX_BYTES);
}
/** Lanes of a group that belong to a voice: 1…4. */
// @ts-ignore: decorator
@inline export function usedLanes(instance: usize, group: u32): u32 {
  return min<u32>(4, voicesOf(instance) * sidesOf(instance) - (group << 2));
}
/** State block of one group. */
// @ts-ignore: decorator
@inline export function stateOf(instance: usize, group: u32): usize {
  return load<u32>(instance, INSTANCE_STATE) + group * (load<u32>(instance, INSTANCE_STATE_VECTORS) << 4);
}
// @ts-ignore: decorator
@inline export function choiceOf(instance: usize, setting: usize): i32 {
  return load<i32>(instance + setting);
}
// @ts-ignore: decorator
@inline export function numberOf(instance: usize, setting: usize): f32 {
  return load<f32>(instance + setting);
}

// @ts-ignore: decorator
@inline export function strideOf(signal: usize, group: u32): usize {
  return load<u32>(signal + (group << 2), SIGNAL_STRIDES);
}
/** Where a signal's data stands for a group at a frame. */
// @ts-ignore: decorator
@inline export function pointerTo(signal: usize, group: u32, frame: u32): usize {
  return (
    load<u32>(signal, SIGNAL_DATA) +
    group * load<u32>(signal, SIGNAL_GROUP_STRIDE) +
    frame * strideOf(signal, group)
  );
}
// @ts-ignore: decorator
@inline export function isConstant(signal: usize, group: u32): bool {
  return strideOf(signal, group) == 0;
}
// @ts-ignore: decorator
@inline export function isCabled(signal: usize): bool {
  return load<u32>(signal, SIGNAL_CABLED) != 0;
}
// @ts-ignore: decorator
@inline export function isWanted(signal: usize): bool {
  return load<u32>(signal, SIGNAL_WANTED) != 0;
}

/** Opens a group of an output for frame-by-frame writing; the pointer to its first frame. */
// @ts-ignore: decorator
@inline export function writeTo(signal: usize, group: u32, frame: u32): usize {
  store<u32>(signal + (group << 2), 16, SIGNAL_STRIDES);
  return load<u32>(signal, SIGNAL_DATA) + group * load<u32>(signal, SIGNAL_GROUP_STRIDE) + (frame << 4);
}

/** Writes one value for all frames: as a constant, or frame by frame inside a loop. */
export function writeConstant(signal: usize, group: u32, frame: u32, frames: u32, value: v128): void {
  if (!load<u32>(signal, SIGNAL_WANTED)) return;
  const data = <usize>load<u32>(signal, SIGNAL_DATA) + group * load<u32>(signal, SIGNAL_GROUP_STRIDE);
  if (load<u32>(signal, SIGNAL_FIXED)) {
    store<u32>(signal + (group << 2), 16, SIGNAL_STRIDES);
    for (let p = data + (frame << 4), end = p + (frames << 4); p < end; p += 16) v128.store(p, value);
  } else {
    if (
      load<u32>(signal + (group << 2), SIGNAL_STRIDES) == 0 &&
      !v128.any_true(v128.xor(v128.load(data), value))
    )
      return;
    store<u32>(signal + (group << 2), 0, SIGNAL_STRIDES);
    store<u32>(signal, segment, SIGNAL_STAMP);
    v128.store(data, value);
  }
}

/** One sample vector of a signal. */
// @ts-ignore: decorator
@inline export function peek(signal: usize, group: u32, frame: u32): v128 {
  return v128.load(pointerTo(signal, group, frame));
}
/** One sample vector of the input or parameter at `port`. */
// @ts-ignore: decorator
@inline export function read(instance: usize, port: usize, group: u32, frame: u32): v128 {
  return peek(signalAt(instance, port), group, frame);
}
/** Writes one sample vector of the output at `port`, where anybody reads it. */
// @ts-ignore: decorator
@inline export function put(instance: usize, port: usize, group: u32, frame: u32, value: v128): void {
  const signal = signalAt(instance, port);
  if (load<u32>(signal, SIGNAL_WANTED)) v128.store(writeTo(signal, group, frame), value);
}

/** Copies a row of vectors into the output at `port`, where anybody reads it; silence where `row` is 0. */
export function putRow(instance: usize, port: usize, group: u32, frame: u32, frames: u32, row: usize): void {
  const signal = signalAt(instance, port);
  if (!load<u32>(signal, SIGNAL_WANTED)) return;
  const out = writeTo(signal, group, frame);
  if (row) memory.copy(out, row, frames << 4);
  else memory.fill(out, 0, frames << 4);
}

/** True when every input and parameter is constant in a group. */
export function settled(instance: usize, group: u32): bool {
  for (
    let p = instance + INSTANCE_PORTS, end = p + (load<u32>(instance, INSTANCE_INPUT_COUNT) << 2);
    p < end;
    p += 4
  ) {
    if (strideOf(load<u32>(p), group)) return false;
  }
  return true;
}

/** Makes what was just written at `frame` the constant of every output of a group. */
export function hold(instance: usize, group: u32, frame: u32, frames: u32): void {
  const table = <usize>load<u32>(instance, INSTANCE_OUTPUTS);
  for (let o: u32 = 0, n = load<u32>(instance, INSTANCE_OUTPUT_COUNT); o < n; ++o) {
    const signal = <usize>load<u32>(table + (o << 2));
    if (!load<u32>(signal, SIGNAL_WANTED)) continue;
    const data = <usize>load<u32>(signal, SIGNAL_DATA) + group * load<u32>(signal, SIGNAL_GROUP_STRIDE);
    const value = v128.load(data + (frame << 4));
    store<u32>(signal, segment, SIGNAL_STAMP);
    if (load<u32>(signal, SIGNAL_FIXED)) {
      for (let p = data + (frame << 4), end = p + (frames << 4); p < end; p += 16) v128.store(p, value);
    } else {
      store<u32>(signal + (group << 2), 0, SIGNAL_STRIDES);
      v128.store(data, value);
    }
  }
}

/** The module says that it does nothing until something it reads changes. */
// @ts-ignore: decorator
@inline export function rest(instance: usize): void {
  store<u32>(instance, segment, INSTANCE_REST);
}

/** True when a signal is constant and has been since before `since`. */
// @ts-ignore: decorator
@inline export function quietSince(signal: usize, since: u32): bool {
  return (
    !v128.any_true(v128.or(v128.load(signal, SIGNAL_STRIDES), v128.load(signal, SIGNAL_STRIDES + 16))) &&
    load<u32>(signal, SIGNAL_STAMP) <= since
  );
}

/** True when a module said it rests and nothing it reads has changed since. */
export function isResting(instance: usize): bool {
  const since = load<u32>(instance, INSTANCE_REST);
  if (since < wokenAt || !restAllowed) return false;
  // Set values wake everything while they move; only what cables bring has to be looked at.
  for (
    let p: usize = load<u32>(instance, INSTANCE_SOURCES),
      end = p + (load<u32>(instance, INSTANCE_SOURCE_COUNT) << 2);
    p < end;
    p += 4
  ) {
    if (!quietSince(load<u32>(p), since)) return false;
  }
  return true;
}

/** What the host worked out for this module. */
// @ts-ignore: decorator
@inline export function tableOf(instance: usize): usize {
  return load<u32>(instance, INSTANCE_TABLE);
}

/** Scratch rows of one block (128 vectors each), shared by all kernels; nothing in them outlives a call. */
const scratchMemory: usize = memory.data(16 * 2048, 16);
// @ts-ignore: decorator
@inline export function scratch(row: u32): usize {
  return scratchMemory + (row << 11);
}

/** The signal read where nothing is connected: constant zero, all groups. */
const zeroHeader: usize = memory.data(64, 16);
const zeroVector: usize = memory.data(16, 16);
const oneHeader: usize = memory.data(64, 16);
const oneVector: usize = memory.data(16, 16);
export function zeroSignal(): usize {
  store<u32>(zeroHeader, <u32>zeroVector, SIGNAL_DATA);
  return zeroHeader;
}
/** Constant one: factors of parameters without modulation. */
export function oneSignal(): usize {
  v128.store(oneVector, f32x4.splat(1));
  store<u32>(oneHeader, <u32>oneVector, SIGNAL_DATA);
  return oneHeader;
}

/** Seeds of what draws at random: as `laneSeedsOf`, but both sides of a voice draw values of their own. */
export function drawSeedsOf(instance: usize, group: u32): v128 {
  const seeds = laneSeedsOf(instance, group);
  return sidesOf(instance) == 2 ? v128.xor(seeds, i32x4(0, 0x3c6ef372, 0, 0x3c6ef372)) : seeds;
}

/** Seeds of a group's lanes: by module seed and voice, the same for both sides of a voice. */
export function laneSeedsOf(instance: usize, group: u32): v128 {
  const lanes = i32x4.add(i32x4.splat(<i32>(group << 2)), i32x4(0, 1, 2, 3));
  const voices = sidesOf(instance) == 2 ? i32x4.shr_u(lanes, 1) : lanes;
  return mixBits(
    v128.xor(
      i32x4.mul(i32x4.add(voices, i32x4.splat(1)), i32x4.splat(0x9e3779b9)),
      i32x4.splat(<i32>seedOf(instance)),
    ),
  );
}
