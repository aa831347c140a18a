import * as P from "../../../generated/shaper.as";
import { SIGNAL_FIXED } from "../../../kernels/abi";
import {
  groupsOf,
  isConstant,
  oversampling,
  pointerTo,
  scratch,
  signalAt,
  stateOf,
  strideOf,
  tableOf,
  writeTo,
} from "../../../kernels/instance.as";
import { gainOfDb } from "../../../kernels/levels.as";
import { dcCoefficient, withoutDc } from "../../../kernels/onepole.as";
import { downsample, upsample } from "../../../kernels/oversample.as";
import { add, clamp, div, madd, mixed, mul, select, splat, sub } from "../../../kernels/simd.as";

const POINTS: f32 = 1024;
const SPACING: f32 = 2 / 1024;
const LEAST_STEP: f32 = 0.004;

let curveValue: v128 = f32x4.splat(0),
  curveIntegral: v128 = f32x4.splat(0);

// @ts-ignore: decorator
@inline function entry(table: usize, at: v128, offset: usize): v128 {
  return f32x4(
    load<f32>(table + <usize>i32x4.extract_lane(at, 0) + offset),
    load<f32>(table + <usize>i32x4.extract_lane(at, 1) + offset),
    load<f32>(table + <usize>i32x4.extract_lane(at, 2) + offset),
    load<f32>(table + <usize>i32x4.extract_lane(at, 3) + offset),
  );
}

/** Curve and integral at u, both level and straight beyond ±1. */
function lookUpCurve(table: usize, u: v128): void {
  const inside = clamp(u, splat(-1), splat(1));
  const place = mul(add(inside, splat(1)), splat(POINTS / 2));
  const whole = i32x4.trunc_sat_f32x4_s(place),
    t = sub(place, f32x4.convert_i32x4_s(whole)),
    at = i32x4.shl(whole, 3);
  const a = entry(table, at, 0),
    b = entry(table, at, 8),
    base = entry(table, at, 4);
  const slope = sub(b, a);
  curveValue = madd(slope, t, a);
  const dx = mul(t, splat(SPACING));
  curveIntegral = add(madd(dx, madd(mul(slope, splat(0.5)), t, a), base), mul(sub(u, inside), curveValue));
}

export function process(instance: usize, frame: u32, frames: u32): void {
  const input = signalAt(instance, P.IN_IN),
    out = signalAt(instance, P.OUT_OUT),
    dc = splat(dcCoefficient()),
    table = tableOf(instance);
  const inLoop = load<u32>(out, SIGNAL_FIXED) != 0;
  const gain = signalAt(instance, P.PARAM_GAIN),
    mix = signalAt(instance, P.PARAM_MIX);
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g);
    const x = pointerTo(input, g, frame),
      xs = strideOf(input, g),
      gp = pointerTo(gain, g, frame),
      gs = strideOf(gain, g);
    const driven = scratch(0),
      wet = scratch(2),
      fixedGain = gainOfDb(v128.load(gp));
    for (let f: u32 = 0; f < frames; ++f)
      v128.store(
        driven + (f << 4),
        mul(v128.load(x + f * xs), gs ? gainOfDb(v128.load(gp + f * gs)) : fixedGain),
      );
    let dry = x,
      dryStride = xs;
    if (inLoop) {
      for (let f: u32 = 0; f < frames; ++f) {
        lookUpCurve(table, v128.load(driven + (f << 4)));
        v128.store(wet + (f << 4), curveValue);
      }
    } else {
      const row = upsample(state + P.STATE_OVER, driven, 16, frames),
        last = state + P.STATE_LAST;
      for (let p = row, end = row + ((<usize>(frames * oversampling)) << 4); p < end; p += 16) {
        const u = v128.load(p),
          before = v128.load(last);
        lookUpCurve(table, u);
        const step = sub(u, before),
          small = f32x4.lt(f32x4.abs(step), splat(LEAST_STEP));
        const quotient = div(sub(curveIntegral, v128.load(last, 16)), select(splat(1), step, small));
        v128.store(last, u);
        v128.store(last, curveIntegral, 16);
        v128.store(p, select(curveValue, quotient, small));
      }
      downsample(state + P.STATE_OVER, row, wet, frames);
      if (!isConstant(mix, g) || v128.any_true(f32x4.ne(v128.load(pointerTo(mix, g, frame)), splat(1)))) {
        dry = scratch(1);
        dryStride = 16;
        downsample(state + P.STATE_DRY, upsample(state + P.STATE_DRY, x, xs, frames), dry, frames);
      }
    }
    let mp = pointerTo(mix, g, frame);
    const ms = strideOf(mix, g),
      q = writeTo(out, g, frame);
    for (let f: u32 = 0; f < frames; ++f) {
      const y = withoutDc(state + P.STATE_DC, v128.load(wet + (f << 4)), dc),
        d = v128.load(dry + f * dryStride);
      v128.store(q + (f << 4), mixed(d, y, v128.load(mp)));
      mp += ms;
    }
  }
}
