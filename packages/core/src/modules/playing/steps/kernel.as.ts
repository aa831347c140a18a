import * as P from "../../../generated/steps.as";
import { isOn, isZero, nextTrigger, rising, unmoved } from "../../../kernels/edges.as";
import { retriggered, triggerFrames } from "../../../kernels/pulses.as";
import {
  choiceOf,
  put,
  read,
  scratch,
  stateOf,
  tableOf,
  time,
  usedLanes,
} from "../../../kernels/instance.as";
import { firstStep, nextStep, stepBits } from "../../../kernels/stepping.as";

const ROW: usize = 32;
const B: usize = 4,
  ON: usize = 8,
  CHANCE: usize = 12,
  REPEAT: usize = 16,
  TIE: usize = 20,
  ACCENT: usize = 24;

export function idle(instance: usize, g: u32): bool {
  const state = stateOf(instance, g);
  return (
    unmoved(state + P.STATE_BEFORE, read(instance, P.IN_CLOCK, g, 0)) &&
    unmoved(state + P.STATE_RESETBEFORE, read(instance, P.IN_RESET, g, 0)) &&
    isZero(state + P.STATE_HIGH) &&
    isZero(state + P.STATE_SOUNDS) &&
    isZero(state + P.STATE_TRIGGERLEFT) &&
    isZero(state + P.STATE_ENDLEFT)
  );
}

// @ts-ignore: decorator
@inline function inUnit(x: f32, range: i32): f32 {
  return range == P.RANGEA_SEMITONES ? x / 12 : x;
}

/** A clock arrives in a lane: on to the next step. */
function advance(instance: usize, g: u32, k: u32, state: usize, length: i32, order: i32, now: u32): void {
  const o = (<usize>k) << 2;
  const count = load<i32>(state + P.STATE_COUNT + o) + 1;
  store<i32>(state + P.STATE_COUNT + o, count);
  const bits = stepBits(instance, g, k, count);
  const started = load<i32>(state + P.STATE_STARTED + o) != 0;
  let played = load<i32>(state + P.STATE_PLAYED + o);
  if (started) store<i32>(state + P.STATE_PERIOD + o, <i32>now - load<i32>(state + P.STATE_CLOCKED + o));
  const step = started
    ? nextStep(
        order,
        min(load<i32>(state + P.STATE_STEP + o), length - 1),
        length,
        bits,
        state + P.STATE_DIRECTION + o,
      )
    : firstStep(order, length, bits);
  if (started && played >= length) {
    // All steps have been played: the end, and round again.
    store<i32>(state + P.STATE_ENDLEFT + o, triggerFrames());
    played = 0;
  }
  store<i32>(state + P.STATE_PLAYED + o, played + 1);
  store<i32>(state + P.STATE_STARTED + o, -1);
  store<i32>(state + P.STATE_STEP + o, step);
  store<i32>(state + P.STATE_CLOCKED + o, <i32>now);
  const row = tableOf(instance) + <usize>step * ROW;
  // The chance has bits of its own, or a random order would decide over it.
  const thrown = <f32>(stepBits(instance, g, k, count ^ 0x40000000) >> 8) * <f32>5.9604644775390625e-8;
  const sounds = load<f32>(row, ON) > 0.5 && thrown < load<f32>(row, CHANCE);
  const tied = load<i32>(state + P.STATE_TIED + o) != 0 && load<u32>(state + P.STATE_HIGH + o) != 0;
  store<i32>(state + P.STATE_SOUNDS + o, sounds ? 1 : 0);
  if (sounds) store<i32>(state + P.STATE_HEARD + o, step + 1);
  store<i32>(state + P.STATE_TIED + o, sounds && load<f32>(row, TIE) > 0.5 ? 1 : 0);
  // Part 1 of the step has begun: as a new gate, or going on from the tied one before.
  store<i32>(state + P.STATE_PART + o, sounds && tied ? 1 : 0);
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g),
    rows = scratch(0),
    table = tableOf(instance);
  const clock = read(instance, P.IN_CLOCK, g, f);
  const resets = i32x4.bitmask(rising(state + P.STATE_RESETBEFORE, read(instance, P.IN_RESET, g, f)));
  const clocks = i32x4.bitmask(rising(state + P.STATE_BEFORE, clock)),
    held = i32x4.bitmask(isOn(clock));
  const order = choiceOf(instance, P.SET_ORDER),
    rangeA = choiceOf(instance, P.SET_RANGEA),
    rangeB = choiceOf(instance, P.SET_RANGEB);
  v128.store(rows, read(instance, P.PARAM_LENGTH, g, f));
  v128.store(rows, read(instance, P.PARAM_GATELENGTH, g, f), 16);
  for (let n: usize = 32; n <= 80; n += 16) v128.store(rows + n, f32x4.splat(0));
  v128.store(rows, read(instance, P.PARAM_KEEP, g, f), 96);
  for (let k: u32 = 0, used = usedLanes(instance, g); k < used; ++k) {
    const o = (<usize>k) << 2,
      length = max<i32>(<i32>nearest<f32>(load<f32>(rows + o)), 1);
    if ((resets >> k) & 1) {
      store<i32>(state + P.STATE_STARTED + o, 0);
      store<i32>(state + P.STATE_PLAYED + o, 0);
      store<i32>(state + P.STATE_SOUNDS + o, 0);
      store<i32>(state + P.STATE_TIED + o, 0);
      store<i32>(state + P.STATE_STEP + o, firstStep(order, length, 0));
      store<i32>(state + P.STATE_DIRECTION + o, 0);
    }
    if ((clocks >> k) & 1) advance(instance, g, k, state, length, order, time + f);
    const row = table + <usize>load<i32>(state + P.STATE_STEP + o) * ROW;
    // The absolute frame of the last clock is kept, so that nobody need count while it rests.
    const since = <i32>(time + f) - load<i32>(state + P.STATE_CLOCKED + o),
      period = load<i32>(state + P.STATE_PERIOD + o);
    let on = false,
      starts = false;
    if (load<i32>(state + P.STATE_SOUNDS + o)) {
      const repeats = max<f32>(nearest<f32>(load<f32>(row, REPEAT)), 1),
        gateLength = load<f32>(rows + o, 16);
      const tied = load<i32>(state + P.STATE_TIED + o) != 0;
      let part = load<i32>(state + P.STATE_PART + o);
      if (period > 0) {
        const place = (<f32>since * repeats) / <f32>period + <f32>1e-5;
        const inside = min(floor<f32>(place), repeats - 1);
        const share = place - inside;
        on = share < gateLength || gateLength >= 1 || (tied && inside >= repeats - 1);
        // After its own length a step is over, however long the next clock takes, unless it is tied.
        if (<f32>since >= <f32>period && !tied) on = gateLength >= 1 && since <= period;
        if (<i32>inside + 1 > part) {
          starts = true;
          part = <i32>inside + 1;
        }
      } else {
        // Nobody knows yet how long a step is: on as long as the clock.
        on = ((held >> k) & 1) != 0 || tied;
        if (part < 1) {
          starts = true;
          part = 1;
        }
      }
      store<i32>(state + P.STATE_PART + o, part);
    }
    const high = retriggered(state + P.STATE_HIGH + o, on, starts);
    if (starts) store<i32>(state + P.STATE_TRIGGERLEFT + o, triggerFrames());
    // The values of the last step that sounded, from the first one on.
    const kept = load<i32>(state + P.STATE_HEARD + o),
      values = kept && load<f32>(rows + o, 96) > 0.5 ? table + <usize>(kept - 1) * ROW : row;
    store<f32>(rows + o, inUnit(load<f32>(values), rangeA), 32);
    store<f32>(rows + o, inUnit(load<f32>(values, B), rangeB), 48);
    store<f32>(rows + o, high ? 1 : 0, 64);
    store<f32>(rows + o, high && load<f32>(row, ACCENT) > 0.5 ? 1 : 0, 80);
  }
  put(instance, P.OUT_A, g, f, v128.load(rows, 32));
  put(instance, P.OUT_B, g, f, v128.load(rows, 48));
  put(instance, P.OUT_GATE, g, f, v128.load(rows, 64));
  put(instance, P.OUT_ACCENT, g, f, v128.load(rows, 80));
  put(instance, P.OUT_TRIGGER, g, f, nextTrigger(state + P.STATE_TRIGGERLEFT));
  put(instance, P.OUT_END, g, f, nextTrigger(state + P.STATE_ENDLEFT));
}
