// Loops of a sampler's zones: forward with a crossfade, to and fro, or none.
import { numberOf } from "../../../kernels/lanes.as";
import * as P from "../../../generated/sampler.as";
import { Signal } from "../../../kernels/signal.as";
import { MIRROR, readCopies, readLeft, readRight, readSinc, SILENCE } from "../../../kernels/sinc.as";
import { Slot, Zone } from "./voice.as";

/** Where a slot's loop lies now; its length is 0 where there is none. */
@unmanaged
export class Loop {
  mode: i32;
  isRound: u32;
  /** What is read beyond the end of the recording, where the loop ends there. */
  beyond: i32;
  from: f64;
  limit: f64;
  fade: f64;
  stop: f64;
}
const LOOP: usize = memory.data(64, 16);

export function loopAt(m: P.Module, zone: Zone, g: u32, f: u32, lane: usize): Loop {
  const loop = changetype<Loop>(LOOP),
    frames = <f64>zone.frames;
  loop.mode = zone.loop >= 0 ? <i32>zone.loop : m.loop;
  const first = zone.loopStart >= 0 ? <f64>zone.loopStart : <f64>numberOf(m.loopStart, g, f, lane) * frames,
    last = zone.loopEnd >= 0 ? <f64>zone.loopEnd : <f64>numberOf(m.loopEnd, g, f, lane) * frames;
  loop.from = floor(min(first, last));
  loop.limit = min(floor(max(first, last)), frames);
  if (loop.limit - loop.from < 1 || m.mode == P.MODE_ONESHOT) loop.mode = P.LOOP_OFF;
  const share = <f64>(zone.crossfade >= 0 ? zone.crossfade : numberOf(m.crossfade, g, f, lane));
  loop.fade = min(share * (loop.limit - loop.from), loop.from);
  loop.isRound = loop.mode == P.LOOP_FORWARD && loop.from == 0 && loop.limit == frames ? 1 : 0;
  loop.beyond =
    loop.mode == P.LOOP_OFF || loop.limit < frames
      ? SILENCE
      : loop.mode == P.LOOP_PINGPONG
        ? MIRROR
        : <i32>loop.from;
  loop.stop = floor(<f64>(zone.end >= 0 ? zone.end : numberOf(m.end, g, f, lane)) * frames);
  return loop;
}

/** Both sides of a slot, with the crossfade before the end of its loop: what heardLeft and heardRight are then. */
export let heardLeft: f32 = 0;
export let heardRight: f32 = 0;

export function hearSlot(left: usize, right: usize, zone: Zone, slot: Slot, loop: Loop, speed: f64): void {
  const frames = <i32>zone.frames;
  if (loop.isRound) readSinc(left, right, frames, slot.place, speed, 0);
  else readCopies(left, right, frames, slot.place, speed, loop.beyond);
  heardLeft = readLeft;
  heardRight = readRight;
  if (loop.mode != P.LOOP_FORWARD || loop.fade < 1 || slot.place < loop.limit - loop.fade) return;
  const w = <f32>((slot.place - loop.limit + loop.fade) / loop.fade);
  readCopies(left, right, frames, slot.place - (loop.limit - loop.from), speed, loop.beyond);
  heardLeft += w * (readLeft - heardLeft);
  heardRight += w * (readRight - heardRight);
}

/** A slot goes on by a frame; false where it has ended. */
export function advance(slot: Slot, loop: Loop, speed: f64): bool {
  slot.place += slot.backward ? -speed : speed;
  if (loop.mode == P.LOOP_OFF) return slot.place < loop.stop;
  const length = loop.limit - loop.from;
  if (loop.mode == P.LOOP_FORWARD) {
    if (slot.place >= loop.limit) slot.place -= floor((slot.place - loop.from) / length) * length;
    return true;
  }
  // To and fro: turned at its ends.
  if (!slot.backward && slot.place >= loop.limit - 1) {
    slot.place = max(2 * (loop.limit - 1) - slot.place, loop.from);
    slot.backward = 1;
  } else if (slot.backward && slot.place <= loop.from) {
    slot.place = min(2 * loop.from - slot.place, loop.limit - 1);
    slot.backward = 0;
  }
  return true;
}
