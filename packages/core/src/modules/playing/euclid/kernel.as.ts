import * as P from "../../../generated/euclid.as";
import { isOn, isZero, nextTrigger, rising, unmoved } from "../../../kernels/edges.as";
import { triggerFrames } from "../../../kernels/pulses.as";
import { put, read, scratch, stateOf } from "../../../kernels/instance.as";
import { splat } from "../../../kernels/simd.as";

export function idle(instance: usize, g: u32): bool {
  const state = stateOf(instance, g);
  return (
    unmoved(state + P.STATE_BEFORE, read(instance, P.IN_CLOCK, g, 0)) &&
    unmoved(state + P.STATE_RESETBEFORE, read(instance, P.IN_RESET, g, 0)) &&
    isZero(state + P.STATE_TRIGGERLEFT) &&
    isZero(state + P.STATE_ENDLEFT)
  );
}

// @ts-ignore: decorator
@inline function wholeAt(rows: usize, row: usize, o: usize): i32 {
  return <i32>nearest<f32>(load<f32>(rows + row + o));
}

/** A pattern of `length` bits, `times` over. */
// @ts-ignore: decorator
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

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g),
    clock = read(instance, P.IN_CLOCK, g, f);
  const resets = rising(state + P.STATE_RESETBEFORE, read(instance, P.IN_RESET, g, f));
  // Steps are kept plus one: 0 is before the first.
  v128.store(state + P.STATE_STEP, v128.andnot(v128.load(state + P.STATE_STEP), resets));
  const clocks = rising(state + P.STATE_BEFORE, clock);
  if (v128.any_true(clocks)) {
    const rows = scratch(0),
      lanes = i32x4.bitmask(clocks);
    v128.store(rows, read(instance, P.PARAM_STEPS, g, f));
    v128.store(rows, read(instance, P.PARAM_HITS, g, f), 16);
    v128.store(rows, read(instance, P.PARAM_ROTATE, g, f), 32);
    v128.store(rows, read(instance, P.PARAM_ACCENTS, g, f), 48);
    for (let k: u32 = 0; k < 4; ++k) {
      if (!((lanes >> k) & 1)) continue;
      const o = (<usize>k) << 2,
        steps = max(wholeAt(rows, 0, o), 1),
        hits = min(wholeAt(rows, 16, o), steps);
      let step = load<i32>(state + P.STATE_STEP + o);
      if (step >= steps) {
        store<i32>(state + P.STATE_ENDLEFT + o, triggerFrames());
        step = 0;
      }
      store<i32>(state + P.STATE_STEP + o, step + 1);
      const place = (((step - wholeAt(rows, 32, o)) % steps) + steps) % steps;
      const pattern = bjorklund(steps, hits),
        isHit = ((pattern >> place) & 1) != 0;
      // Which of the hits this is: accents are spread over them.
      const index = <i32>popcnt<u32>(pattern & ((1 << place) - 1)),
        accents = min(wholeAt(rows, 48, o), hits);
      store<i32>(state + P.STATE_HIT + o, isHit ? -1 : 0);
      store<i32>(state + P.STATE_ACCENT + o, isHit && (bjorklund(hits, accents) >> index) & 1 ? -1 : 0);
      if (isHit) store<i32>(state + P.STATE_TRIGGERLEFT + o, triggerFrames());
    }
  }
  const on = v128.and(isOn(clock), splat(1)),
    hit = v128.load(state + P.STATE_HIT);
  put(instance, P.OUT_GATE, g, f, v128.and(on, hit));
  put(instance, P.OUT_ACCENT, g, f, v128.and(on, v128.load(state + P.STATE_ACCENT)));
  put(instance, P.OUT_TRIGGER, g, f, nextTrigger(state + P.STATE_TRIGGERLEFT));
  put(instance, P.OUT_END, g, f, nextTrigger(state + P.STATE_ENDLEFT));
}
