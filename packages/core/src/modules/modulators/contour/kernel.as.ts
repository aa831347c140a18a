import * as P from "../../../generated/contour.as";
import { isOn, isZero, nextTrigger, rising, startTrigger, unmoved } from "../../../kernels/edges.as";
import { beatsPerFrame, sampleRate } from "../../../kernels/time.as";
import { stepPhase, unsignedPhase } from "../../../kernels/phase.as";
import { lookUpPoints } from "../../../kernels/points.as";
import { div, mul, select, splat } from "../../../kernels/simd.as";

const RESOLUTION: f32 = 4096;
const LAST: i32 = -1;

export function idle(state: P.State, gate: v128, trigger: v128): bool {
  return (
    isZero(state.runningAt) &&
    isZero(state.endLeftAt) &&
    !isZero(state.startedAt) &&
    unmoved(state.gateBeforeAt, gate) &&
    unmoved(state.triggerBeforeAt, trigger)
  );
}

export function compute(
  m: P.Module,
  state: P.State,
  out: P.Outputs,
  gate: v128,
  trigger: v128,
  scale: v128,
  length: v128,
  sync: v128,
): void {
  const mode = m.mode;
  const gated = m.gate.isCabled,
    free = !gated && !m.trigger.isCabled;
  let starts = v128.or(rising(state.gateBeforeAt, gate), rising(state.triggerBeforeAt, trigger));
  // With nothing connected a loop runs by itself.
  if (free && mode == P.MODE_LOOP) starts = v128.or(starts, i32x4.eq(state.started, i32x4.splat(0)));
  state.started = i32x4.splat(-1);
  const high = v128.andnot(state.high, starts),
    low = v128.andnot(state.low, starts);
  let running = v128.or(state.running, starts);
  const table = m.table,
    place = unsignedPhase(high);
  out.out = mul(lookUpPoints(table + 4, mul(place, splat(RESOLUTION))), scale);
  const synced = f32x4.gt(sync, splat(0.5));
  const perSecond = select(splat(<f32>(beatsPerFrame * <f64>sampleRate)), splat(1), synced);
  // A held contour stops where it waits for as long as the gate is on.
  const waits =
    mode == P.MODE_SUSTAIN && gated
      ? v128.and(isOn(gate), f32x4.ge(place, splat(load<f32>(table))))
      : i32x4.splat(0);
  const moves = v128.andnot(running, waits);
  stepPhase(state.highAt, high, low, v128.and(div(perSecond, length), moves));
  const next = state.high;
  const over = v128.and(moves, i32x4.lt_u(next, high));
  const goesOn = mode == P.MODE_LOOP ? (gated ? isOn(gate) : i32x4.splat(-1)) : i32x4.splat(0);
  const ends = v128.andnot(over, goesOn);
  // One that has ended stays at its last point.
  state.high = v128.bitselect(i32x4.splat(LAST), next, ends);
  running = v128.andnot(running, ends);
  state.running = running;
  startTrigger(state.endLeftAt, over);
  out.end = nextTrigger(state.endLeftAt);
}
