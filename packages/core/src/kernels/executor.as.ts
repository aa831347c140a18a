// Runs a plan: a list of calls, with feedback loops as nested runs of shorter blocks.
import {
  DONE,
  FIT,
  INSTANCE_FLUSHED,
  INSTANCE_GROUPS,
  INSTANCE_RESETS,
  INSTANCE_STATE,
  INSTANCE_STATE_VECTORS,
  OP_BYTES,
  OP_COUNT,
  NO_FUNCTION,
  OP_FRAME,
  OP_FUNCTION,
  OP_INSTANCE,
  OP_LOOP,
  OP_NOW,
  OP_NOW_INSTANCE,
  OP_PROBES,
  OP_READY,
  OP_SHORT,
  OP_RESTS,
  INSTANCE_REST,
  ADAPTER_REST,
} from "./abi";
import { settle } from "./adapter.as";
import { heard, moveParams } from "./params.as";
import { runFrame } from "../generated/frames.as";
import { Instance } from "./instance.as";
import { Signal } from "./signal.as";
import { beginSegment, restAllowed, segment, wokenAt } from "./time.as";
import { splat } from "./simd.as";

/** State below this is silence; above the other it has blown up. */
const LEAST_STATE: f32 = 1e-15;
const GREATEST_STATE: f32 = 1e15;


@inline function healthy(x: v128): v128 {
  const size = f32x4.abs(x);
  return v128.and(f32x4.gt(size, f32x4.splat(LEAST_STATE)), f32x4.lt(size, f32x4.splat(GREATEST_STATE)));
}

/** True where a lane is NaN or beyond any sane level. */
@inline function broken(x: v128): bool {
  return !i32x4.all_true(f32x4.lt(f32x4.abs(x), f32x4.splat(GREATEST_STATE)));
}

function call(op: usize, frame: u32, frames: u32): void {
  call_indirect<void>(load<u32>(op, OP_FUNCTION), <usize>load<u32>(op, OP_INSTANCE), frame, frames);
}

/**
 * Runs a loop's body frame by frame, each op in its form for that where it has one and is fit for it. What was found is
 * kept in the ops from the first on: function and instance of everything that has something to do in a frame.
 */
function runFrames(body: usize, count: u32, frames: u32): void {
  let last = body;
  for (let op = body, end = body + count * OP_BYTES; op < end; op += OP_BYTES) {
    const instance = load<u32>(op, OP_INSTANCE),
      ready = load<u32>(op, OP_READY),
      frame = load<u32>(op, OP_FRAME);
    const fit = ready == NO_FUNCTION ? FIT : call_indirect<u32>(ready, <usize>instance, frames);
    if (fit == DONE) continue;
    const isShort = fit == FIT && frame != NO_FUNCTION;
    store<u32>(last, isShort ? frame : load<u32>(op, OP_FUNCTION), OP_NOW);
    store<u32>(last, instance, OP_NOW_INSTANCE);
    store<u32>(last, isShort ? 1 : 0, OP_SHORT);
    last += OP_BYTES;
  }
  for (let f: u32 = 0; f < frames; ++f)
    for (let op = body; op < last; op += OP_BYTES) {
      const what = load<u32>(op, OP_NOW),
        instance = <usize>load<u32>(op, OP_NOW_INSTANCE);
      if (load<u32>(op, OP_SHORT)) runFrame(what, instance, f);
      else call_indirect<void>(what, instance, f, <u32>1);
    }
}

/** Runs a loop's body in blocks no longer than its least delay. */
function runLoop(op: usize, frames: u32): void {
  const probes = load<u32>(op, OP_PROBES);
  const first = op + OP_BYTES;
  // Every delay tells how many frames it will certainly stay above during this segment.
  let block = probes ? frames : 1;
  for (let p = first, end = first + probes * OP_BYTES; p < end; p += OP_BYTES)
    block = min(
      block,
      max(1, call_indirect<u32>(load<u32>(p, OP_FUNCTION), <usize>load<u32>(p, OP_INSTANCE), <u32>0, frames)),
    );
  const body = first + probes * OP_BYTES;
  const count = load<u32>(op, OP_COUNT) - probes;
  if (block == 1) {
    runFrames(body, count, frames);
    return;
  }
  for (let frame: u32 = 0; frame < frames; frame += block) {
    const length = min(block, frames - frame);
    for (let i: u32 = 0; i < count; ++i) call(body + i * OP_BYTES, frame, length);
  }
}

/**
 * What is not finite, or beyond any sane level, leaves a module as 0. Only the last frame is looked at: a broken state
 * stays broken until it is cleared, and one odd sample that passes through breaks the next state it meets.
 */
function contain(instance: Instance, frames: u32): void {
  for (let o: u32 = 0, n = instance.outputCount; o < n; ++o) {
    const signal = instance.outputAt(o);
    if (!signal.isWanted) continue;
    for (let g: u32 = 0, groups = signal.groups; g < groups; ++g) {
      if (!broken(v128.load(signal.row(g, frames - 1)))) continue;
      const length: u32 = signal.isConstant(g) ? 1 : frames;
      for (let f: u32 = 0; f < length; ++f) {
        const p = signal.row(g, f),
          x = v128.load(p);
        v128.store(p, v128.and(x, f32x4.lt(f32x4.abs(x), f32x4.splat(GREATEST_STATE))));
      }
    }
  }
}

/** Calls a module unless it rests; one that is called is awake until it says otherwise. */
@inline function callUnlessResting(op: usize, frames: u32): void {
  if (load<u32>(op, OP_RESTS)) {
    const instance = changetype<Instance>(<usize>load<u32>(op, OP_INSTANCE));
    if (instance.isResting()) return;
    store<u32>(instance.address, 0, INSTANCE_REST);
    call(op, 0, frames);
    contain(instance, frames);
    return;
  }
  call(op, 0, frames);
}

/** Runs one op of the program, a loop with its body; how many ops that were. For measuring. */
export function runOp(program: usize, index: u32, frames: u32): u32 {
  const op = program + index * OP_BYTES;
  if (load<u32>(op, OP_FUNCTION) == OP_LOOP) {
    runLoop(op, frames);
    return load<u32>(op, OP_COUNT) + 1;
  }
  callUnlessResting(op, frames);
  return 1;
}
/** What comes before and after the ops of a segment. */
export function beginOps(frames: u32): void {
  beginSegment();
  moveParams(frames);
}
export function endOps(adapters: usize, adapterCount: u32, frames: u32): void {
  heard(frames);
  for (let i: u32 = 0; i < adapterCount; ++i) {
    const adapter = <usize>load<u32>(adapters + (i << 2));
    // What rests has no ramp and no fade on the way.
    if (load<u32>(adapter, ADAPTER_REST) < wokenAt || !restAllowed) settle(adapter, 0, frames);
  }
}

/** Runs `count` ops for one segment of at most 128 frames. */
export function run(program: usize, count: u32, adapters: usize, adapterCount: u32, frames: u32): void {
  beginSegment();
  moveParams(frames);
  for (let i: u32 = 0; i < count; ++i) {
    const op = program + i * OP_BYTES;
    if (load<u32>(op, OP_FUNCTION) == OP_LOOP) {
      runLoop(op, frames);
      i += load<u32>(op, OP_COUNT);
    } else callUnlessResting(op, frames);
  }
  endOps(adapters, adapterCount, frames);
}

/**
 * Once every 128 frames, on absolute multiples of 128: feedback state too small to hear becomes 0 (denormals are
 * slow), and a module whose state or output is NaN, infinite or absurdly large is cleared and counted.
 */
export function guardInstance(instance: usize, lastFrame: u32): u32 {
  // What rested through the last check was healthy then and has not moved since.
  const since = load<u32>(instance, INSTANCE_REST);
  if (since >= wokenAt && since <= checkedAt) return 0;
  const groups = load<u32>(instance, INSTANCE_GROUPS);
  const flushed = load<u32>(instance, INSTANCE_FLUSHED);
  const vectors = load<u32>(instance, INSTANCE_STATE_VECTORS);
  const state = <usize>load<u32>(instance, INSTANCE_STATE);
  let failed = false;
  for (let g: u32 = 0; g < groups; ++g) {
    const block = state + g * (vectors << 4);
    for (let i: u32 = 0; i < flushed; ++i) {
      const p = block + (i << 4);
      const x = v128.load(p);
      // Most of what a module may keep is not in use.
      if (!v128.any_true(x)) continue;
      if (broken(x)) failed = true;
      v128.store(p, v128.and(x, healthy(x)));
    }
  }
  const module = changetype<Instance>(instance);
  for (let o: u32 = 0, n = module.outputCount; o < n; ++o) {
    const signal = module.outputAt(o);
    if (!signal.isWanted) continue;
    for (let g: u32 = 0; g < signal.groups; ++g)
      if (broken(v128.load(signal.row(g, lastFrame)))) failed = true;
  }
  if (failed) {
    for (let g: u32 = 0; g < groups; ++g) memory.fill(state + g * (vectors << 4), 0, flushed << 4);
    store<u32>(instance, load<u32>(instance, INSTANCE_RESETS) + 1, INSTANCE_RESETS);
    store<u32>(instance, 0, INSTANCE_REST);
  }
  return failed ? 1 : 0;
}

/** Segment of the last check. */
let checkedAt: u32 = 0;

export function guard(instances: usize, count: u32, lastFrame: u32): u32 {
  let failures: u32 = 0;
  for (let i: u32 = 0; i < count; ++i) failures += guardInstance(load<u32>(instances + (i << 2)), lastFrame);
  checkedAt = segment;
  return failures;
}

/** Appends lane `lane` of a signal to a ring of 512 floats and its summary (min, max, last) behind it. */
export function watch(signal: Signal, lane: u32, ring: usize, position: u32, frames: u32): void {
  const group = lane >> 2;
  let p = signal.row(group, 0) + ((lane & 3) << 2);
  const stride: usize = signal.isConstant(group) ? 0 : 16;
  let low = load<f32>(ring, 2048);
  let high = load<f32>(ring, 2052);
  let x: f32 = load<f32>(p),
    f: u32 = 0;
  // Whole vectors where the ring is met at one of its vectors: as good as always.
  if ((position & 3) == 0) {
    let lowest = splat(x),
      highest = lowest;
    for (; f + 4 <= frames; f += 4) {
      const four = stride
        ? f32x4(load<f32>(p), load<f32>(p, 16), load<f32>(p, 32), load<f32>(p, 48))
        : lowest;
      lowest = f32x4.pmin(lowest, four);
      highest = f32x4.pmax(highest, four);
      v128.store(ring + (((position + f) & 511) << 2), four);
      p += stride << 2;
    }
    low = min(
      low,
      min(
        min(f32x4.extract_lane(lowest, 0), f32x4.extract_lane(lowest, 1)),
        min(f32x4.extract_lane(lowest, 2), f32x4.extract_lane(lowest, 3)),
      ),
    );
    high = max(
      high,
      max(
        max(f32x4.extract_lane(highest, 0), f32x4.extract_lane(highest, 1)),
        max(f32x4.extract_lane(highest, 2), f32x4.extract_lane(highest, 3)),
      ),
    );
    if (f && stride) x = load<f32>(p - 16);
  }
  for (; f < frames; ++f) {
    x = load<f32>(p);
    low = min(low, x);
    high = max(high, x);
    store<f32>(ring + (((position + f) & 511) << 2), x);
    p += stride;
  }
  store<f32>(ring, low, 2048);
  store<f32>(ring, high, 2052);
  store<f32>(ring, x, 2056);
}
