// Reader: a head of its own on a buffer's tape. It runs after the buffer, and sees what was there before each frame.
import * as P from "../../../generated/reader.as";
import { numberOf } from "../../../kernels/lanes.as";
import { triggerFrames } from "../../../kernels/pulses.as";
import { Signal } from "../../../kernels/signal.as";
import { sampleRate, time } from "../../../kernels/time.as";
import { EMPTY, readTape, Tape, tapeOf } from "../buffer/tape.as";

const FADE_SECONDS: f32 = 0.005;
const NEAR: f64 = 1e-3;
const HEADS_BYTES: usize = 64;


@unmanaged
class Head {
  /** Frames of the tape that it has moved since it began. */
  way: f64;
  /** Where the last run goes on while the new one fades in. */
  last: f64;
  gate: u32;
  isStarted: u32;
  plays: u32;
  jumping: u32;
  endLeft: i32;
  level: f32;
  /** Last sound of both sides: faded where the buffer goes. */
  left: f32;
  right: f32;
}


@inline function fadeFrames(): u32 {
  return <u32>(FADE_SECONDS * sampleRate);
}

/** Where it reads now; what is beyond the ends goes round or ends. */
function placeOf(m: P.Module, head: Head, tape: Tape, g: u32, frame: u32, lane: usize): f64 {
  const length = <f64>tape.length;
  if (m.offset.isCabled) {
    const back = <f64>numberOf(m.offset, g, frame, lane) * <f64>sampleRate,
      whole = nearest(back);
    // Seconds are rounded to 24 bits: what is a whole number of frames but for that is one.
    return tape.headAt(time + frame) - max(1.0, abs(back - whole) < NEAR ? whole : back);
  }
  const from = <f64>numberOf(m.position, g, frame, lane) * length,
    place = from + head.way;
  if (place >= 0 && place < length) return place;
  if (head.plays && numberOf(m.loop, g, frame, lane) <= 0.5 && head.way != 0) {
    head.plays = 0;
    head.endLeft = triggerFrames();
    return min(max(place, 0), length - 1);
  }
  const round = place - floor(place / length) * length;
  if (head.way != 0 && abs(head.way) >= length - abs(from)) head.endLeft = triggerFrames();
  head.way += round - place;
  return round;
}


@inline function towards(level: f32, goal: f32): f32 {
  const step: f32 = 1 / (FADE_SECONDS * sampleRate);
  return level < goal ? min<f32>(level + step, goal) : max<f32>(level - step, goal);
}

function step(m: P.Module, head: Head, tape: Tape, g: u32, frame: u32, lane: usize): void {
  const gate: u32 = numberOf(m.trigger, g, frame, lane) > 0.5 ? 1 : 0,
    speed = <f64>numberOf(m.speed, g, frame, lane),
    now = time + frame;
  if (head.isStarted == 0) {
    head.isStarted = 1;
    head.plays = m.trigger.isCabled ? 0 : 1;
  }
  const place = placeOf(m, head, tape, g, frame, lane);
  let at = place;
  if (gate > head.gate) {
    if (head.level > 0) {
      head.last = place;
      head.jumping = fadeFrames();
    }
    head.way = 0;
    head.plays = 1;
    at = placeOf(m, head, tape, g, frame, lane);
  }
  head.gate = gate;
  head.level = towards(head.level, head.plays && tape.length > 0 ? 1 : 0);
  const loud = head.level * numberOf(m.level, g, frame, lane);
  head.left = heard(m, head, tape, at, 0, now) * loud;
  head.right = tape.sides > 1 ? heard(m, head, tape, at, 1, now) * loud : head.left;
  if (head.jumping > 0) {
    head.last += speed;
    head.jumping -= 1;
  }
  if (head.plays && tape.length > 0) head.way += speed;
}


@inline function heard(m: P.Module, head: Head, tape: Tape, at: f64, side: u32, now: u32): f32 {
  if (head.level == 0) return 0;
  const y = readTape(tape, at, side, m.interpolation, now);
  if (head.jumping == 0) return y;
  const w: f32 = <f32>head.jumping / <f32>fadeFrames();
  return y + w * (readTape(tape, head.last, side, m.interpolation, now) - y);
}


@inline function headOf(m: P.Module, n: u32): Head {
  const each = 4 / m.sideCount;
  return changetype<Head>(m.state(n / each).headsAt + <usize>(n % each) * HEADS_BYTES);
}


@inline function put(out: Signal, g: u32, frame: u32, lane: usize, value: f32): void {
  if (out.isWanted) store<f32>(out.write(g, frame) + lane, value);
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const keeper = m.keeper,
    voices = m.voiceCount,
    sides = m.sideCount,
    fade: f32 = 1 - 1 / (FADE_SECONDS * 0.2 * sampleRate);
  let resting = true;
  for (let n: u32 = 0; n < voices; ++n) {
    const at = n * sides,
      g = at >> 2,
      lane = (<usize>(at & 3)) << 2,
      head = headOf(m, n);
    const tape =
      changetype<usize>(keeper) == 0 || n >= keeper.voiceCount
        ? changetype<Tape>(0)
        : tapeOf(keeper.aux, n, keeper.auxBytes / keeper.voiceCount);
    const isThere = changetype<usize>(tape) != 0 && tape.sides > 0;
    if (isThere && tape.phase != EMPTY) resting = false;
    for (let f: u32 = 0; f < frames; ++f) {
      if (isThere) step(m, head, tape, g, frame + f, lane);
      else {
        // The buffer is gone: what was heard last fades.
        head.left = abs(head.left) > 1e-6 ? head.left * fade : 0;
        head.right = abs(head.right) > 1e-6 ? head.right * fade : 0;
        head.level = 0;
      }
      if (head.left != 0 || head.right != 0) resting = false;
      put(m.outOut, g, frame + f, lane, head.left);
      if (sides > 1) put(m.outOut, g, frame + f, lane + 4, head.right);
      const end: f32 = head.endLeft > 0 ? 1 : 0;
      put(m.outEnd, g, frame + f, lane, end);
      if (sides > 1) put(m.outEnd, g, frame + f, lane + 4, end);
      if (head.endLeft > 0) {
        head.endLeft -= 1;
        resting = false;
      }
    }
  }
  if (resting && changetype<usize>(keeper) == 0) m.rest();
}
