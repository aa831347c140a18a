// Sampler: zones of recordings over keys and velocities. Notes start on the frame; what sounded before in a voice fades
// over two milliseconds.
import { numberOf } from "../../../kernels/lanes.as";
import * as P from "../../../generated/sampler.as";
import { triggerFrames } from "../../../kernels/pulses.as";
import { scratch } from "../../../kernels/scratch.as";
import { add, mul, splat } from "../../../kernels/simd.as";
import { COPY_SPEED, readRun, runEnd } from "../../../kernels/sinc.as";
import { NOWHERE, tell } from "../../../kernels/telling.as";
import { sampleRate } from "../../../kernels/time.as";
import { advance, heardLeft, heardRight, hearSlot, Loop, loopAt } from "./loops.as";
import { ATTACK, envelope, IDLE, NEVER, power, RELEASE } from "./envelope.as";
import { Slot, SLOTS, Voice, VOICE_BYTES, Zone } from "./voice.as";

const HEAD_BYTES: usize = 16,
  ZONE_BYTES: usize = 96;
const FADE_SECONDS: f32 = 0.002;
const LEVELS: u32 = 15,
  RUN_ROW: u32 = 14;
/** Shorter runs are heard frame by frame. */
const SHORTEST_RUN: u32 = 4;
/** Stands for the first frame of the next block. */
const LATER: u32 = 0xfffffffe;


@inline function zoneAt(m: P.Module, n: u32): Zone {
  return changetype<Zone>(m.table + HEAD_BYTES + <usize>n * ZONE_BYTES);
}

/** Does a zone sound for a key and a velocity? */
@inline function matches(zone: Zone, key: f32, velocity: f32): bool {
  return (
    key >= zone.lowKey && key <= zone.highKey && velocity >= zone.lowVelocity && velocity <= zone.highVelocity
  );
}
/** Is it a zone's turn, among those of its group that would sound? */
function isNext(m: P.Module, n: u32, key: f32, velocity: f32): bool {
  const zone = zoneAt(m, n);
  if (zone.turn == 0) return true;
  let before: u32 = 0,
    all: u32 = 0;
  for (let other: u32 = 0, count = load<u32>(m.table); other < count; ++other) {
    const one = zoneAt(m, other);
    if (one.turn != zone.turn || !matches(one, key, velocity)) continue;
    if (other < n) before += 1;
    all += 1;
  }
  return load<u32>(m.aux + ((<usize>(zone.turn - 1)) << 2)) % all == before;
}

/** A note begins: what sounds fades, every zone that matches takes a slot. */
function begin(m: P.Module, voice: Voice, g: u32, f: u32, lane: usize): void {
  const key = nearest<f32>(<f32>60 + <f32>12 * numberOf(m.pitch, g, f, lane)),
    velocity: f32 = m.velocity.isCabled ? numberOf(m.velocity, g, f, lane) : 1;
  for (let n: u32 = 0; n < SLOTS; ++n) {
    const slot = voice.slot(n);
    if (slot.zone != 0 && slot.fade == 0) slot.fade = <u32>(FADE_SECONDS * sampleRate);
  }
  let took = false;
  for (let n: u32 = 0, count = load<u32>(m.table); n < count; ++n) {
    const zone = zoneAt(m, n);
    if (!matches(zone, key, velocity) || !isNext(m, n, key, velocity)) continue;
    const slot = voice.free();
    if (changetype<usize>(slot) == 0) break;
    const share = zone.start >= 0 ? zone.start : numberOf(m.start, g, f, lane);
    slot.zone = n + 1;
    slot.fade = 0;
    slot.backward = 0;
    slot.place = floor(<f64>share * <f64>zone.frames);
    slot.envelope = 0;
    took = true;
  }
  // Each group that was heard moves on by one.
  for (let turn: u32 = 1, turns = load<u32>(m.table, 4); turn <= turns; ++turn) {
    let heard = false;
    for (let n: u32 = 0, count = load<u32>(m.table); !heard && n < count; ++n)
      heard = zoneAt(m, n).turn == turn && matches(zoneAt(m, n), key, velocity);
    const at = m.aux + ((<usize>(turn - 1)) << 2);
    if (heard) store<u32>(at, load<u32>(at) + 1);
  }
  voice.stage = took ? ATTACK : IDLE;
  voice.level = 0;
  voice.gain = 1 + numberOf(m.velocityAmount, g, f, lane) * (velocity - 1);
}

/** Samples of a zone that pass in a frame. */
@inline function speedAt(m: P.Module, zone: Zone, g: u32, f: u32, lane: usize): f64 {
  const semitones =
    numberOf(m.tune, g, f, lane) + numberOf(m.fine, g, f, lane) * 0.01 + zone.tune - (zone.root - 60);
  return power(numberOf(m.pitch, g, f, lane) + semitones / 12);
}

/** Frames in which a slot meets no end, no seam and no turn of its loop: so many at the most. */
function steadyFrames(slot: Slot, loop: Loop, speed: f64, most: u32): u32 {
  if (slot.backward || speed <= 0 || loop.mode == P.LOOP_PINGPONG) return 0;
  // Copies of a loop that is the whole recording do not go round.
  if (loop.isRound && speed > COPY_SPEED) return 0;
  const end = loop.mode == P.LOOP_OFF ? loop.stop : loop.limit - loop.fade,
    left = floor((end - 1 - slot.place) / speed);
  return left < 1 ? 0 : min<u32>(most, <u32>min(left, 128));
}

/** A slot over frames in which nothing happens to it; false where its recording cannot be read in one go. */
function hearRun(
  left: usize,
  right: usize,
  zone: Zone,
  slot: Slot,
  speed: f64,
  from: u32,
  count: u32,
  levels: usize,
  wet: usize,
): bool {
  const pairs = scratch(RUN_ROW);
  if (!readRun(left, right, <i32>zone.frames, slot.place, speed, count, pairs)) return false;
  const gain = splat(zone.gain),
    pan = f32x4(zone.panLeft, zone.panRight, zone.panLeft, zone.panRight);
  let n: u32 = 0,
    p = wet + ((<usize>from) << 4),
    pair = pairs,
    level = levels + ((<usize>from) << 2);
  for (; n + 2 <= count; n += 2) {
    const loud = mul(v128.load64_zero(level), gain),
      two = mul(mul(v128.load(pair), v128.shuffle<f32>(loud, loud, 0, 0, 1, 1)), pan);
    v128.store64_lane(p, add(v128.load64_zero(p), two), 0);
    v128.store64_lane(p, add(v128.load64_zero(p, 16), v128.shuffle<f32>(two, two, 2, 3, 0, 1)), 0, 16);
    level += 8;
    pair += 16;
    p += 32;
  }
  if (n < count) {
    const one = mul(mul(v128.load64_zero(pair), mul(splat(load<f32>(level)), gain)), pan);
    v128.store64_lane(p, add(v128.load64_zero(p), one), 0);
  }
  slot.place = runEnd;
  slot.envelope = load<f32>(levels + ((<usize>(from + count - 1)) << 2));
  return true;
}

/** A slot over some frames, added into pairs 16 bytes apart; the frame at which it ended, or NEVER. */
function sound(
  m: P.Module,
  slot: Slot,
  g: u32,
  from: u32,
  to: u32,
  frame: u32,
  lane: usize,
  levels: usize,
  wet: usize,
): u32 {
  const zone = zoneAt(m, slot.zone - 1),
    left = m.table + ((<usize>zone.left) << 2),
    right = m.table + ((<usize>zone.right) << 2),
    fadeFrames: f32 = FADE_SECONDS * sampleRate;
  const isStill =
    (m.pitch.step(g) |
      m.tune.step(g) |
      m.fine.step(g) |
      m.loopStart.step(g) |
      m.loopEnd.step(g) |
      m.crossfade.step(g) |
      m.end.step(g)) ==
    0;
  let loop = loopAt(m, zone, g, frame + from, lane),
    speed = speedAt(m, zone, g, frame + from, lane);
  for (let f = from; f < to; ++f) {
    if (isStill && slot.fade == 0) {
      const count = steadyFrames(slot, loop, speed, to - f);
      if (count >= SHORTEST_RUN && hearRun(left, right, zone, slot, speed, f, count, levels, wet)) {
        f += count - 1;
        continue;
      }
    }
    if (!isStill) {
      loop = loopAt(m, zone, g, frame + f, lane);
      speed = speedAt(m, zone, g, frame + f, lane);
    }
    // What fades keeps the level it had.
    if (slot.fade == 0) slot.envelope = load<f32>(levels + ((<usize>f) << 2));
    const loud: f32 = slot.envelope * zone.gain * (slot.fade > 0 ? <f32>slot.fade / fadeFrames : 1);
    hearSlot(left, right, zone, slot, loop, speed);
    const p = wet + ((<usize>f) << 4);
    store<f32>(p, load<f32>(p) + heardLeft * loud * zone.panLeft);
    store<f32>(p, load<f32>(p, 4) + heardRight * loud * zone.panRight, 4);
    if (slot.fade > 0) {
      slot.fade -= 1;
      if (slot.fade == 0) {
        slot.zone = 0;
        return NEVER;
      }
    }
    if (advance(slot, loop, speed)) continue;
    slot.zone = 0;
    return f + 1;
  }
  return NEVER;
}

/** A voice from one frame of the block to another. */
function render(m: P.Module, voice: Voice, g: u32, from: u32, to: u32, frame: u32, lane: usize): void {
  if (from >= to || (voice.stage == IDLE && !voice.sounds)) return;
  const levels = scratch(LEVELS);
  envelope(m, voice, g, from, to, frame, lane, levels);
  let last: u32 = 0;
  for (let n: u32 = 0; n < SLOTS; ++n) {
    const slot = voice.slot(n);
    if (slot.zone == 0) continue;
    const ended = sound(m, slot, g, from, to, frame, lane, levels, scratch(g) + lane);
    if (ended != NEVER) last = max(last, ended);
  }
  if (voice.stage == IDLE && voice.ended != NEVER)
    for (let n: u32 = 0; n < SLOTS; ++n) if (voice.slot(n).fade == 0) voice.slot(n).zone = 0;
  // The recordings have ended before the release has.
  if (voice.stage != IDLE && last > 0 && !voice.plays) {
    voice.ended = min(voice.ended, last);
    voice.stage = IDLE;
    voice.level = 0;
  }
}

/** How far the first zone has been read, as a share of its recording. */
function headOf(m: P.Module, voice: Voice): f32 {
  for (let n: u32 = 0; n < SLOTS; ++n) {
    const slot = voice.slot(n);
    if (slot.zone == 1 && slot.fade == 0) return <f32>(slot.place / <f64>zoneAt(m, 0).frames);
  }
  return NOWHERE;
}

function gatesStand(m: P.Module): bool {
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) if (m.gate.step(g) != 0) return false;
  return true;
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const voices = m.voiceCount;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) memory.fill(scratch(g), 0, (<usize>frames) << 4);
  for (let n: u32 = 0; n < voices; ++n) {
    const voice = voiceOf(m, n);
    voice.rendered = 0;
    if (voice.ended != NEVER) voice.ended = voice.ended == LATER ? 0 : NEVER;
    if (voice.stage != IDLE || voice.sounds || voice.done > 0 || voice.ended == 0) resting = false;
  }
  // Frame by frame over all voices: turns are taken in the order of time. Gates that stand are looked at once.
  const looks: u32 = gatesStand(m) ? 1 : frames;
  for (let f: u32 = 0; f < looks; ++f)
    for (let n: u32 = 0; n < voices; ++n) {
      const voice = voiceOf(m, n),
        g = n >> 1,
        lane = (<usize>(n & 1)) << 3,
        gate: u32 = numberOf(m.gate, g, frame + f, lane) > 0.5 ? 1 : 0;
      if (gate == voice.gate) continue;
      resting = false;
      voice.gate = gate;
      render(m, voice, g, voice.rendered, f, frame, lane);
      voice.rendered = f;
      if (gate) begin(m, voice, g, frame + f, lane);
      else if (m.mode == P.MODE_GATED && voice.stage != IDLE) voice.stage = RELEASE;
    }
  for (let n: u32 = 0; n < voices; ++n) {
    const voice = voiceOf(m, n);
    render(m, voice, n >> 1, voice.rendered, frames, frame, (<usize>(n & 1)) << 3);
    if (m.outHead.isWanted) tell(m.outHead, n, headOf(m, voice));
    if (voice.ended == NEVER && voice.done == 0 && !m.outDone.isWanted) continue;
    for (let f: u32 = 0; f < frames; ++f) {
      if (f == voice.ended) voice.done = triggerFrames();
      if (m.outDone.isWanted)
        store<f32>(m.outDone.write(n >> 2, frame + f) + ((n & 3) << 2), voice.done > 0 ? 1 : 0);
      voice.done = max(voice.done - 1, 0);
    }
    // A recording that ended with the last frame is over at the next.
    voice.ended = voice.ended == frames ? LATER : NEVER;
  }
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    if (resting) {
      m.outOut.fill(g, frame, frames, splat(0));
      continue;
    }
    if (!m.outOut.isWanted) continue;
    const row = scratch(g),
      step = m.level.step(g);
    let out = m.outOut.write(g, frame),
      level = m.level.row(g, frame);
    for (let p = row, end = row + ((<usize>frames) << 4); p < end; p += 16) {
      v128.store(out, mul(v128.load(p), v128.load(level)));
      level += step;
      out += 16;
    }
  }
  if (resting) m.rest();
}


@inline function voiceOf(m: P.Module, n: u32): Voice {
  return changetype<Voice>(m.state(n >> 1).voicesAt + (n & 1) * VOICE_BYTES);
}
