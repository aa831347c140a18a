// Outboard: collects blocks for a device and has it called by the host when one is full; what it gave is heard in the block
// after. Blocks are counted from the first frame on, so that how time is cut changes nothing.
import * as P from "../../../generated/outboard.as";
import {
  MAIL_BYTES,
  MAIL_CONTROLS,
  MAIL_IN,
  MAIL_NOTE_BYTES,
  MAIL_NOTE_COUNT,
  MAIL_NOTES,
  MAIL_OUT,
  MAIL_PITCHES,
  MAIL_SLEPT,
  MAIL_VALUES,
  MOST_MAIL_NOTES,
} from "../../../kernels/abi";
import { numberOf } from "../../../kernels/lanes.as";
import { splat } from "../../../kernels/simd.as";
import { time } from "../../../kernels/time.as";

// @ts-ignore: decorator
@external("outboard", "run")
declare function runDevice(table: usize, mail: usize): u32;

const BLOCK: u32 = 128;
/** Nothing louder goes to a device. */
const MOST: f32 = 64;

/** What the module keeps behind its mailbox. */
@unmanaged
class Own {
  isStarted: u32;
  /** Frame from which blocks are counted, and the block that was called last. */
  anchor: u32;
  called: u32;
  /** Blocks in which nothing came in and the device was silent. */
  quiet: u32;
  /** Something came in within this block. */
  isHeard: u32;
}

// @ts-ignore: decorator
@inline function sane(x: f32): f32 {
  return x != x ? 0 : max<f32>(min<f32>(x, MOST), -MOST);
}

function note(mail: usize, i: u32, voice: u32, on: bool, pitch: f32, velocity: f32): void {
  const count = load<u32>(mail, MAIL_NOTE_COUNT);
  if (count >= <u32>MOST_MAIL_NOTES) return;
  const at = mail + MAIL_NOTES + <usize>count * MAIL_NOTE_BYTES;
  store<u32>(at, i);
  store<u32>(at, voice | (on ? 256 : 0), 4);
  store<f32>(at, pitch, 8);
  store<f32>(at, velocity, 12);
  store<u32>(mail, count + 1, MAIL_NOTE_COUNT);
}

/** Gates and pitches of all voices at a frame; true while any gate is high. */
function takeVoices(m: P.Module, mail: usize, gates: usize, frame: u32, i: u32): bool {
  let any = false;
  for (let n: u32 = 0, voices = min<u32>(m.voiceCount, 16); n < voices; ++n) {
    const g = n >> 1,
      lane = (<usize>(n & 1)) << 3,
      gate: u32 = numberOf(m.gate, g, frame, lane) > 0.5 ? 1 : 0,
      pitch = sane(numberOf(m.pitch, g, frame, lane));
    store<f32>(mail + MAIL_PITCHES + (n << 2), pitch);
    if (gate) any = true;
    if (gate == load<u32>(gates + (n << 2))) continue;
    store<u32>(gates + (n << 2), gate);
    any = true;
    note(mail, i, n, gate != 0, pitch, m.velocity.isCabled ? sane(numberOf(m.velocity, g, frame, lane)) : 1);
  }
  return any;
}

/** Both sides of all voices together. */
function takeSound(m: P.Module, mail: usize, frame: u32, i: u32): bool {
  let left: f32 = 0,
    right: f32 = 0;
  for (let n: u32 = 0, voices = m.voiceCount; n < voices; ++n) {
    const lane = (<usize>(n & 1)) << 3;
    left += numberOf(m.in, n >> 1, frame, lane);
    right += numberOf(m.in, n >> 1, frame, lane + 4);
  }
  store<f32>(mail + MAIL_IN + (i << 2), sane(left));
  store<f32>(mail + MAIL_IN + ((BLOCK + i) << 2), sane(right));
  return left != 0 || right != 0;
}


@inline function control(m: P.Module, n: usize, frame: u32): f32 {
  return numberOf(m.signal(P.PARAM_P1 + (n << 2)), 0, frame, 0);
}

/** A block is full: the device works on it. */
function call(m: P.Module, own: Own, mail: usize, block: u32, frame: u32): void {
  const missed = block - own.called - 1;
  store<u32>(mail, missed * BLOCK, MAIL_SLEPT);
  own.called = block;
  for (let n: usize = 0; n < <usize>MAIL_CONTROLS; ++n)
    store<f32>(mail + MAIL_VALUES + (n << 2), control(m, n, frame));
  const isQuiet = runDevice(m.table, mail) != 0;
  store<u32>(mail, 0, MAIL_NOTE_COUNT);
  own.quiet = isQuiet && !own.isHeard ? own.quiet + 1 : 0;
  own.isHeard = 0;
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const mail = m.aux,
    own = changetype<Own>(mail + MAIL_BYTES),
    gates = mail + MAIL_BYTES + 64;
  if (own.isStarted == 0) {
    own.isStarted = 1;
    own.anchor = time + frame;
    own.called = 0xffffffff;
  }
  const since = time + frame - own.anchor;
  // It slept from some block on: what it had collected by then was silence.
  for (let f: u32 = 0; f < frames; ++f) {
    const i = (since + f) & (BLOCK - 1);
    const plays = takeVoices(m, mail, gates, frame + f, i),
      sounds = takeSound(m, mail, frame + f, i);
    if (plays || sounds) own.isHeard = 1;
    m.outOut.put(
      0,
      frame + f,
      f32x4(load<f32>(mail + MAIL_OUT + (i << 2)), load<f32>(mail + MAIL_OUT + ((BLOCK + i) << 2)), 0, 0),
    );
    if (i == BLOCK - 1) call(m, own, mail, (since + f) / BLOCK, frame + f);
  }
  if (own.quiet > 2 && !own.isHeard) {
    m.outOut.fill(0, frame, frames, splat(0));
    m.rest();
  }
}
