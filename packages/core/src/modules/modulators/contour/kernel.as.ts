import * as P from "../../../generated/contour.as";
import { isOn, isZero, nextTrigger, rising, startTrigger, unmoved } from "../../../kernels/edges.as";
import {
  beatsPerFrame,
  choiceOf,
  isCabled,
  put,
  read,
  sampleRate,
  signalAt,
  stateOf,
  tableOf,
} from "../../../kernels/instance.as";
import { stepPhase, unsignedPhase } from "../../../kernels/phase.as";
import { lookUpPoints } from "../../../kernels/points.as";
import { div, mul, select, splat } from "../../../kernels/simd.as";

const RESOLUTION: f32 = 4096;
const LAST: i32 = -1;

export function idle(instance: usize, g: u32): bool {
  const state = stateOf(instance, g);
  return (
    isZero(state + P.STATE_RUNNING) &&
    isZero(state + P.STATE_ENDLEFT) &&
    !isZero(state + P.STATE_STARTED) &&
    unmoved(state + P.STATE_GATEBEFORE, read(instance, P.IN_GATE, g, 0)) &&
    unmoved(state + P.STATE_TRIGGERBEFORE, read(instance, P.IN_TRIGGER, g, 0))
  );
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g),
    gate = read(instance, P.IN_GATE, g, f),
    mode = choiceOf(instance, P.SET_MODE);
  const gated = isCabled(signalAt(instance, P.IN_GATE)),
    free = !gated && !isCabled(signalAt(instance, P.IN_TRIGGER));
  let starts = v128.or(
    rising(state + P.STATE_GATEBEFORE, gate),
    rising(state + P.STATE_TRIGGERBEFORE, read(instance, P.IN_TRIGGER, g, f)),
  );
  // With nothing connected a loop runs by itself.
  if (free && mode == P.MODE_LOOP)
    starts = v128.or(starts, i32x4.eq(v128.load(state + P.STATE_STARTED), i32x4.splat(0)));
  v128.store(state + P.STATE_STARTED, i32x4.splat(-1));
  const high = v128.andnot(v128.load(state + P.STATE_HIGH), starts),
    low = v128.andnot(v128.load(state + P.STATE_LOW), starts);
  let running = v128.or(v128.load(state + P.STATE_RUNNING), starts);
  const table = tableOf(instance),
    place = unsignedPhase(high);
  put(
    instance,
    P.OUT_OUT,
    g,
    f,
    mul(lookUpPoints(table + 4, mul(place, splat(RESOLUTION))), read(instance, P.PARAM_SCALE, g, f)),
  );
  const length = read(instance, P.PARAM_LENGTH, g, f);
  const synced = f32x4.gt(read(instance, P.PARAM_SYNC, g, f), splat(0.5));
  const perSecond = select(splat(<f32>(beatsPerFrame * <f64>sampleRate)), splat(1), synced);
  // A held contour stops where it waits for as long as the gate is on.
  const waits =
    mode == P.MODE_SUSTAIN && gated
      ? v128.and(isOn(gate), f32x4.ge(place, splat(load<f32>(table))))
      : i32x4.splat(0);
  const moves = v128.andnot(running, waits);
  stepPhase(state + P.STATE_HIGH, high, low, v128.and(div(perSecond, length), moves));
  const next = v128.load(state + P.STATE_HIGH);
  const over = v128.and(moves, i32x4.lt_u(next, high));
  const goesOn = mode == P.MODE_LOOP ? (gated ? isOn(gate) : i32x4.splat(-1)) : i32x4.splat(0);
  const ends = v128.andnot(over, goesOn);
  // One that has ended stays at its last point.
  v128.store(state + P.STATE_HIGH, v128.bitselect(i32x4.splat(LAST), next, ends));
  running = v128.andnot(running, ends);
  v128.store(state + P.STATE_RUNNING, running);
  startTrigger(state + P.STATE_ENDLEFT, over);
  put(instance, P.OUT_END, g, f, nextTrigger(state + P.STATE_ENDLEFT));
}
