import * as P from "../../../generated/euclid.as";
import { isOn, isZero, nextTrigger, rising, unmoved } from "../../../kernels/edges.as";
import { triggerFrames } from "../../../kernels/pulses.as";
import { scratch } from "../../../kernels/scratch.as";
import { splat } from "../../../kernels/simd.as";

export function idle(state: P.State, clock: v128, reset: v128): bool {
  return (
    unmoved(state.beforeAt, clock) &&
    unmoved(state.resetBeforeAt, reset) &&
    isZero(state.triggerLeftAt) &&
    isZero(state.endLeftAt)
  );
}


@inline function wholeAt(rows: usize, row: usize, o: usize): i32 {
  return <i32>nearest<f32>(load<f32>(rows + row + o));
}

/** A pattern of `length` bits, `times` over. */
@inline function repeated(bits: u32, length: i32, times: i32): u64 {
  let all: u64 = 0;
  for (let i = 0; i < times; ++i) all |= (<u64>bits) << (i * length);
  return all;
}

/**
 * `hits` ones spread over `steps` bits, beginning with a one (Bjorklund, "The theory of rep-rate pattern generation in
 * the SNS timing system", 2003): equal groups are paired with equal rests until at most one rest is left.
 */
function bjorklund(steps: i32, hits: i32): u32 {
  if (hits <= 0) return 0;
  let group: u32 = 1,
    rest: u32 = 0,
    groupLength = 1,
    restLength = 1,
    groups = hits,
    rests = steps - hits;
  while (rests > 1) {
    const paired = min(groups, rests),
      joined = group | (rest << groupLength),
      length = groupLength + restLength;
    if (groups > paired) {
      rest = group;
      restLength = groupLength;
      rests = groups - paired;
    } else rests -= paired;
    group = joined;
    groupLength = length;
    groups = paired;
  }
  return <u32>(repeated(group, groupLength, groups) | (rests ? (<u64>rest) << (groups * groupLength) : 0));
}

export function compute(
  state: P.State,
  out: P.Outputs,
  clock: v128,
  reset: v128,
  steps: v128,
  hits: v128,
  rotate: v128,
  accents: v128,
): void {
  const resets = rising(state.resetBeforeAt, reset);
  // Steps are kept plus one: 0 is before the first.
  state.step = v128.andnot(state.step, resets);
  const clocks = rising(state.beforeAt, clock);
  if (v128.any_true(clocks)) {
    const rows = scratch(0),
      lanes = i32x4.bitmask(clocks);
    v128.store(rows, steps);
    v128.store(rows, hits, 16);
    v128.store(rows, rotate, 32);
    v128.store(rows, accents, 48);
    for (let k: u32 = 0; k < 4; ++k) {
      if (!((lanes >> k) & 1)) continue;
      const o = (<usize>k) << 2,
        steps = max(wholeAt(rows, 0, o), 1),
        hits = min(wholeAt(rows, 16, o), steps);
      let step = load<i32>(state.stepAt + o);
      if (step >= steps) {
        store<i32>(state.endLeftAt + o, triggerFrames());
        step = 0;
      }
      store<i32>(state.stepAt + o, step + 1);
      const place = (((step - wholeAt(rows, 32, o)) % steps) + steps) % steps;
      const pattern = bjorklund(steps, hits),
        isHit = ((pattern >> place) & 1) != 0;
      // Which of the hits this is: accents are spread over them.
      const index = <i32>popcnt<u32>(pattern & ((1 << place) - 1)),
        accents = min(wholeAt(rows, 48, o), hits);
      store<i32>(state.hitAt + o, isHit ? -1 : 0);
      store<i32>(state.accentAt + o, isHit && (bjorklund(hits, accents) >> index) & 1 ? -1 : 0);
      if (isHit) store<i32>(state.triggerLeftAt + o, triggerFrames());
    }
  }
  const on = v128.and(isOn(clock), splat(1)),
    hit = state.hit;
  out.gate = v128.and(on, hit);
  out.accent = v128.and(on, state.accent);
  out.trigger = nextTrigger(state.triggerLeftAt);
  out.end = nextTrigger(state.endLeftAt);
}
