import * as P from "../../../generated/steps.as";
import { isOn, isZero, nextTrigger, rising, unmoved } from "../../../kernels/edges.as";
import { retriggered, triggerFrames } from "../../../kernels/pulses.as";
import { scratch } from "../../../kernels/scratch.as";
import { NOWHERE, tell } from "../../../kernels/telling.as";
import { time } from "../../../kernels/time.as";
import { firstStep, nextStep, stepBits } from "../../../kernels/stepping.as";

const ROW: usize = 32;
const A: usize = 0,
  B: usize = 4,
  ON: usize = 8,
  CHANCE: usize = 12,
  REPEAT: usize = 16,
  TIE: usize = 20,
  ACCENT: usize = 24;
/** Behind all steps the rows' own lengths. */
const LENGTHS: usize = 32 * ROW;

/** A value of a row: of the sequence's step, or of the row's own where it goes round by itself. */
@inline function cell(table: usize, row: usize, step: i32, walked: i32): f32 {
  const length = <i32>load<f32>(table + LENGTHS + row);
  return load<f32>(table + <usize>(length > 0 ? walked % length : step) * ROW + row);
}

export function idle(state: P.State, clock: v128, reset: v128): bool {
  return (
    unmoved(state.beforeAt, clock) &&
    unmoved(state.resetBeforeAt, reset) &&
    isZero(state.highAt) &&
    isZero(state.soundsAt) &&
    isZero(state.triggerLeftAt) &&
    isZero(state.endLeftAt)
  );
}


@inline function inUnit(x: f32, range: i32): f32 {
  return range == P.RANGEA_SEMITONES ? x / 12 : x;
}

/** A clock arrives in a lane: on to the next step. */
function advance(m: P.Module, g: u32, k: u32, state: P.State, length: i32, order: i32, now: u32): void {
  const o = (<usize>k) << 2;
  const count = load<i32>(state.countAt + o) + 1;
  store<i32>(state.countAt + o, count);
  const bits = stepBits(m, g, k, count);
  const started = load<i32>(state.startedAt + o) != 0;
  let played = load<i32>(state.playedAt + o);
  if (started) store<i32>(state.periodAt + o, <i32>now - load<i32>(state.clockedAt + o));
  const step = started
    ? nextStep(order, min(load<i32>(state.stepAt + o), length - 1), length, bits, state.directionAt + o)
    : firstStep(order, length, bits);
  if (started && played >= length) {
    // All steps have been played: the end, and round again.
    store<i32>(state.endLeftAt + o, triggerFrames());
    played = 0;
  }
  store<i32>(state.playedAt + o, played + 1);
  store<i32>(state.startedAt + o, -1);
  store<i32>(state.stepAt + o, step);
  store<i32>(state.clockedAt + o, <i32>now);
  const walked = started ? load<i32>(state.walkedAt + o) + 1 : 0,
    table = m.table;
  store<i32>(state.walkedAt + o, walked);
  // The chance has bits of its own, or a random order would decide over it.
  const thrown = <f32>(stepBits(m, g, k, count ^ 0x40000000) >> 8) * <f32>5.9604644775390625e-8;
  const sounds = cell(table, ON, step, walked) > 0.5 && thrown < cell(table, CHANCE, step, walked);
  const tied = load<i32>(state.tiedAt + o) != 0 && load<u32>(state.highAt + o) != 0;
  store<i32>(state.soundsAt + o, sounds ? 1 : 0);
  if (sounds) {
    store<i32>(state.heardAt + o, step + 1);
    store<i32>(state.heardWalkedAt + o, walked);
  }
  store<i32>(state.tiedAt + o, sounds && cell(table, TIE, step, walked) > 0.5 ? 1 : 0);
  // Part 1 of the step has begun: as a new gate, or going on from the tied one before.
  store<i32>(state.partAt + o, sounds && tied ? 1 : 0);
}

export function compute(
  m: P.Module,
  g: u32,
  f: u32,
  state: P.State,
  out: P.Outputs,
  clock: v128,
  reset: v128,
  length: v128,
  gateLength: v128,
  keep: v128,
): void {
  const rows = scratch(0),
    table = m.table;
  const resets = i32x4.bitmask(rising(state.resetBeforeAt, reset));
  const clocks = i32x4.bitmask(rising(state.beforeAt, clock)),
    held = i32x4.bitmask(isOn(clock));
  const order = m.order,
    rangeA = m.rangeA,
    rangeB = m.rangeB;
  v128.store(rows, length);
  v128.store(rows, gateLength, 16);
  for (let n: usize = 32; n <= 80; n += 16) v128.store(rows + n, f32x4.splat(0));
  v128.store(rows, keep, 96);
  for (let k: u32 = 0, used = m.usedLanes(g); k < used; ++k) {
    const o = (<usize>k) << 2,
      length = max<i32>(<i32>nearest<f32>(load<f32>(rows + o)), 1);
    if ((resets >> k) & 1) {
      store<i32>(state.startedAt + o, 0);
      store<i32>(state.playedAt + o, 0);
      store<i32>(state.soundsAt + o, 0);
      store<i32>(state.tiedAt + o, 0);
      store<i32>(state.stepAt + o, firstStep(order, length, 0));
      store<i32>(state.walkedAt + o, 0);
      store<i32>(state.directionAt + o, 0);
    }
    if ((clocks >> k) & 1) advance(m, g, k, state, length, order, time + f);
    const step = load<i32>(state.stepAt + o),
      walked = load<i32>(state.walkedAt + o);
    // The absolute frame of the last clock is kept, so that nobody need count while it rests.
    const since = <i32>(time + f) - load<i32>(state.clockedAt + o),
      period = load<i32>(state.periodAt + o);
    let on = false,
      starts = false;
    if (load<i32>(state.soundsAt + o)) {
      const repeats = max<f32>(nearest<f32>(cell(table, REPEAT, step, walked)), 1),
        gateLength = load<f32>(rows + o, 16);
      const tied = load<i32>(state.tiedAt + o) != 0;
      let part = load<i32>(state.partAt + o);
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
      store<i32>(state.partAt + o, part);
    }
    const high = retriggered(state.highAt + o, on, starts);
    if (starts) store<i32>(state.triggerLeftAt + o, triggerFrames());
    // The values of the last step that sounded, from the first one on.
    const heard = load<i32>(state.heardAt + o),
      isKept = heard != 0 && load<f32>(rows + o, 96) > 0.5,
      from = isKept ? heard - 1 : step,
      fromWalked = isKept ? load<i32>(state.heardWalkedAt + o) : walked;
    store<f32>(rows + o, inUnit(cell(table, A, from, fromWalked), rangeA), 32);
    store<f32>(rows + o, inUnit(cell(table, B, from, fromWalked), rangeB), 48);
    store<f32>(rows + o, high ? 1 : 0, 64);
    store<f32>(rows + o, high && cell(table, ACCENT, step, walked) > 0.5 ? 1 : 0, 80);
  }
  if (m.outStep.isWanted)
    for (let k: u32 = 0, used = m.usedLanes(g); k < used; ++k) {
      const o = (<usize>k) << 2,
        voice = m.sideCount == 2 ? ((g << 2) + k) >> 1 : (g << 2) + k;
      tell(m.outStep, voice, load<i32>(state.startedAt + o) ? <f32>load<i32>(state.stepAt + o) : NOWHERE);
    }
  out.a = v128.load(rows, 32);
  out.b = v128.load(rows, 48);
  out.gate = v128.load(rows, 64);
  out.accent = v128.load(rows, 80);
  out.trigger = nextTrigger(state.triggerLeftAt);
  out.end = nextTrigger(state.endLeftAt);
}
