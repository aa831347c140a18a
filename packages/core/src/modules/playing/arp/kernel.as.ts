import * as P from "../../../generated/arp.as";
import { triggerFrames, retriggered } from "../../../kernels/pulses.as";
import { scratch } from "../../../kernels/scratch.as";
import { isOn } from "../../../kernels/edges.as";
import { clamp, mixBits, splat } from "../../../kernels/simd.as";

// Words of the one voice, in the first group's state: what is on the way.
const CLOCK: usize = 0,
  RESET: usize = 4,
  INDEX: usize = 8,
  COUNT: usize = 12,
  SINCE: usize = 16,
  PERIOD: usize = 20,
  PITCH: usize = 24,
  HIGH: usize = 28,
  LEFT: usize = 32,
  STAMPS: usize = 36,
  SOUNDS: usize = 40,
  PART: usize = 44,
  NOTES: usize = 48,
  HELD: usize = 52;

/** The chord in its order: lane numbers in scratch; how many. */
function gather(m: P.Module, order: i32): i32 {
  const list = scratch(1),
    lanes = m.voiceCount * m.sideCount;
  let count = 0;
  for (let lane: u32 = 0; lane < lanes; lane += m.sideCount) {
    const state = m.state(lane >> 2),
      o = (<usize>(lane & 3)) << 2;
    if (!load<i32>(state.memberAt + o)) continue;
    const key: f32 =
      order == P.ORDER_PLAYED ? <f32>load<i32>(state.stampAt + o) : load<f32>(state.pitchOfAt + o);
    let at = count;
    // Insertion keeps equal keys in the order of their voices.
    while (at > 0 && load<f32>(list + ((<usize>(at - 1)) << 3)) > key) {
      store<u64>(list + ((<usize>at) << 3), load<u64>(list + ((<usize>(at - 1)) << 3)));
      --at;
    }
    store<f32>(list + ((<usize>at) << 3), key);
    store<u32>(list + ((<usize>at) << 3), lane, 4);
    ++count;
  }
  return count;
}

/** Pitch of the nth note of the chord in its order, over all octaves. */
function pitchAt(m: P.Module, order: i32, index: i32, count: i32, octaves: i32): f32 {
  const total = count * octaves;
  let n = index % total;
  if (order == P.ORDER_DOWN) n = total - 1 - n;
  else if (order == P.ORDER_UPDOWN && total > 1) {
    const cycle = 2 * total - 2;
    n = index % cycle;
    if (n >= total) n = cycle - n;
  } else if (order == P.ORDER_RANDOM) {
    const bits = <u32>i32x4.extract_lane(mixBits(i32x4.splat(<i32>(m.seed ^ (<u32>index * 0x9e3779b1)))), 0);
    n = <i32>((<u64>bits * <u64>total) >> 32);
  }
  const lane = load<u32>(scratch(1) + ((<usize>(n % count)) << 3), 4);
  return load<f32>(m.state(lane >> 2).pitchOfAt + ((<usize>(lane & 3)) << 2)) + <f32>(n / count);
}

/** Keys that went down or up since the last frame. */
function watchKeys(m: P.Module, f: u32, latch: bool): void {
  const gate = m.gate,
    pitch = m.pitch,
    one = m.state(0).oneAt;
  const lanes = m.voiceCount * m.sideCount;
  let held = load<i32>(one, HELD);
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      on = isOn(gate.at(g, f)),
      before = state.keyBefore;
    state.keyBefore = on;
    const downs = i32x4.bitmask(v128.andnot(on, before)),
      ups = i32x4.bitmask(v128.andnot(before, on));
    // The pitch of a held key is followed: bends and glides are heard.
    state.pitchOf = v128.bitselect(clamp(pitch.at(g, f), splat(-20), splat(20)), state.pitchOf, on);
    if (!(downs | ups)) {
      if (!latch) state.member = on;
      continue;
    }
    for (let k: u32 = 0; k < 4 && (g << 2) + k < lanes; ++k) {
      const o = (<usize>k) << 2;
      if ((ups >> k) & 1) held -= 1;
      if ((downs >> k) & 1) {
        // A new chord after everything was let go replaces a latched one.
        if (held == 0 && latch) for (let h: u32 = 0; h < groups; ++h) m.state(h).member = splat(0);
        held += 1;
        const stamp = load<i32>(one, STAMPS) + 1;
        store<i32>(one, stamp, STAMPS);
        store<i32>(state.stampAt + o, stamp);
        store<i32>(state.memberAt + o, -1);
      }
    }
    if (!latch) state.member = on;
  }
  store<i32>(one, held, HELD);
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const one = m.state(0).oneAt,
    order = m.order;
  const clock = m.clock,
    reset = m.reset;
  const pitchOut = m.outPitch,
    gateOut = m.outGate,
    triggerOut = m.outTrigger;
  for (let f = frame, end = frame + frames; f < end; ++f) {
    watchKeys(m, f, f32x4.extract_lane(m.latch.at(0, f), 0) > 0.5);
    const octaves = max<i32>(<i32>nearest<f32>(f32x4.extract_lane(m.octaves.at(0, f), 0)), 1);
    const gateLength = f32x4.extract_lane(m.gateLength.at(0, f), 0);
    const clocked = f32x4.extract_lane(clock.at(0, f), 0) > 0.5,
      resets = f32x4.extract_lane(reset.at(0, f), 0) > 0.5;
    if (resets && !load<i32>(one, RESET)) store<i32>(one, 0, INDEX);
    store<i32>(one, resets ? 1 : 0, RESET);
    let starts = false;
    if (clocked && !load<i32>(one, CLOCK)) {
      if (load<i32>(one, COUNT) > 0) store<i32>(one, load<i32>(one, SINCE), PERIOD);
      store<i32>(one, load<i32>(one, COUNT) + 1, COUNT);
      store<i32>(one, 0, SINCE);
      const count = gather(m, order);
      store<i32>(one, count > 0 ? 1 : 0, SOUNDS);
      store<i32>(one, order == P.ORDER_TOGETHER ? count * octaves : 1, NOTES);
      store<i32>(one, 0, PART);
      if (count == 0) store<i32>(one, 0, INDEX);
    }
    store<i32>(one, clocked ? 1 : 0, CLOCK);
    const since = load<i32>(one, SINCE),
      period = load<i32>(one, PERIOD);
    store<i32>(one, since + 1, SINCE);
    let on = false;
    if (load<i32>(one, SOUNDS)) {
      const notes = <f32>load<i32>(one, NOTES);
      const place: f32 = period > 0 ? (<f32>since * notes) / <f32>period + <f32>1e-5 : 0;
      const inside = min(floor<f32>(place), notes - 1);
      on = period > 0 ? place - inside < gateLength : clocked;
      if (<i32>inside + 1 > load<i32>(one, PART)) {
        starts = true;
        store<i32>(one, <i32>inside + 1, PART);
        const count = gather(m, order),
          index = load<i32>(one, INDEX);
        if (count > 0) store<f32>(one, pitchAt(m, order, index, count, octaves), PITCH);
        store<i32>(one, index + 1, INDEX);
      }
    }
    const high = retriggered(one + HIGH, on, starts);
    if (starts) store<i32>(one, triggerFrames(), LEFT);
    const left = load<i32>(one, LEFT);
    if (left > 0) store<i32>(one, left - 1, LEFT);
    if (pitchOut.isWanted) v128.store(pitchOut.write(0, f), splat(load<f32>(one, PITCH)));
    if (gateOut.isWanted) v128.store(gateOut.write(0, f), splat(high ? 1 : 0));
    if (triggerOut.isWanted) v128.store(triggerOut.write(0, f), splat(left > 0 ? 1 : 0));
  }
}
