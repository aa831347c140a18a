// All-pass after Schroeder ("Natural sounding artificial reverberation", 1962): v = x - g r, out = r + g v, where r is
// what comes back at return, and send = v delayed. Read and write are apart, so that what is nested between send and
// return costs no sample.
import * as P from "../../../generated/allpass.as";
import { time } from "../../../kernels/time.as";
import { delayFrames, leastLane, maskOf, reachOf, readPast, SLACK, slotOf } from "../../../kernels/delays.as";
import { LOOP_RANGE, softLimit } from "../../../kernels/limits.as";
import { clamp, madd, mul, splat, sub, uniform } from "../../../kernels/simd.as";

/** With gains near 1 the loop of an all-pass holds much more than what comes out of it. */
const ALLPASS_KNEE: f32 = 64;


@inline function ringMask(m: P.Module): u32 {
  return maskOf(m.auxBytes / m.groups);
}


@inline function ringOf(m: P.Module, g: u32): usize {
  return m.aux + <usize>g * (m.auxBytes / m.groups);
}

/** The delay in frames at a frame. */
@inline function delayAt(unit: i32, timeAt: v128, pitchAt: v128, most: v128): v128 {
  return clamp(delayFrames(unit, timeAt, pitchAt), splat(1), most);
}

export function readLeast(m: P.Module, frame: u32, frames: u32): u32 {
  const timeSignal = m.time,
    pitch = m.pitch;
  if (timeSignal.isFixed || pitch.isFixed) {
    return 1;
  }
  const unit = m.unit,
    most = splat(<f32>(ringMask(m) - SLACK));
  let least: f32 = 1e9;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    let t = timeSignal.row(g, 0),
      p = pitch.row(g, 0);
    const ts = timeSignal.step(g),
      ps = pitch.step(g);
    for (let f: u32 = 0, n: u32 = ts | ps ? frames : 1; f < n; ++f) {
      least = min(least, leastLane(delayAt(unit, v128.load(t), v128.load(p), most)));
      t += ts;
      p += ps;
    }
  }
  return <u32>max(1, <i32>least - reachOf(m.interpolation));
}

export function read(m: P.Module, frame: u32, frames: u32): void {
  const unit = m.unit,
    kind = m.interpolation,
    mask = ringMask(m),
    most = splat(<f32>(mask - SLACK));
  const timeSignal = m.time,
    pitch = m.pitch,
    send = m.outSend;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const ring = ringOf(m, g),
      state = m.state(g).interpolatedAt;
    let t = timeSignal.row(g, frame),
      p = pitch.row(g, frame);
    const ts = timeSignal.step(g),
      ps = pitch.step(g),
      q = send.write(g, frame),
      steady = (ts | ps) == 0;
    let delay = delayAt(unit, v128.load(t), v128.load(p), most),
      same = uniform(delay);
    for (let f: u32 = 0; f < frames; ++f) {
      if (!steady) {
        delay = delayAt(unit, v128.load(t), v128.load(p), most);
        same = uniform(delay);
      }
      v128.store(q + (f << 4), readPast(kind, ring, mask, time + frame + f, delay, same, state));
      t += ts;
      p += ps;
    }
  }
}

export function write(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    gain = m.gain,
    out = m.outOut;
  const back = m.return.isCabled ? m.return : m.outSend,
    mask = ringMask(m);
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const ring = ringOf(m, g);
    let x = input.row(g, frame),
      k = gain.row(g, frame),
      r = back.row(g, frame);
    const xs = input.step(g),
      ks = gain.step(g),
      rs = back.step(g),
      q = out.write(g, frame);
    for (let f: u32 = 0; f < frames; ++f) {
      const gg = v128.load(k),
        returned = v128.load(r);
      const sane = softLimit(sub(v128.load(x), mul(gg, returned)), ALLPASS_KNEE, LOOP_RANGE);
      v128.store(slotOf(ring, mask, time + frame + f), sane);
      v128.store(q + (f << 4), madd(gg, sane, returned));
      x += xs;
      k += ks;
      r += rs;
    }
  }
}
