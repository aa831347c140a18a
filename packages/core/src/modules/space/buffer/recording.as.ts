// What a buffer's head records: the first recording and its seam, layers over it, and how they are taken back.
import { sampleRate, time } from "../../../kernels/time.as";
import { EMPTY, FIRST, LOOPED, Tape } from "./tape.as";

export const FADE_SECONDS: f32 = 0.005;
/** Layers never grow beyond this. */
const MOST: f32 = 64;


@unmanaged
export class Head {
  place: f64;
  /** Where the last run goes on while the new one fades in. */
  last: f64;
  isStarted: u32;
  gates: u32;
  /** Record as it counts, after waiting for the beat. */
  records: u32;
  /** A recording ended because the room was full: record has to fall first. */
  isFull: u32;
  plays: u32;
  /** Level of what is played, of what is recorded. */
  playing: f32;
  writing: f32;
  jumping: u32;
  /** Frames of the seam that are still to be written. */
  seam: u32;
  seamFrames: u32;
  clearing: u32;
  endLeft: i32;
  beforeLeft: f32;
  beforeRight: f32;
}


@inline export function fadeFrames(): u32 {
  return <u32>(FADE_SECONDS * sampleRate);
}


@inline export function sane(x: f32): f32 {
  return x != x ? 0 : max<f32>(min<f32>(x, MOST), -MOST);
}

/** The first recording is over: it goes round. */
export function close(head: Head, tape: Tape): void {
  if (tape.length == 0) {
    tape.phase = EMPTY;
    return;
  }
  tape.phase = LOOPED;
  tape.layer = 0;
  head.seamFrames = min(fadeFrames(), tape.length >> 1);
  head.seam = head.seamFrames;
}

/** Record begins or ends, once it is due. */
export function record(head: Head, tape: Tape, wanted: u32): void {
  if (wanted == head.records) return;
  head.records = wanted;
  if (!wanted) {
    if (tape.phase == FIRST) close(head, tape);
    return;
  }
  if (tape.phase == EMPTY) {
    tape.phase = FIRST;
    tape.length = 0;
    tape.layer = 0;
    tape.saved = 0;
    head.clearing = 0;
  } else if (tape.phase == LOOPED) tape.layer += 1;
}

/** Takes the last layer back or brings it again; the first recording too, and what was cleared. */
export function undo(head: Head, tape: Tape): void {
  if (tape.phase == LOOPED && tape.layer > 0) {
    tape.turn(fadeFrames());
    if (head.records) tape.layer += 1;
  } else if (tape.phase == LOOPED) head.clearing = fadeFrames();
  else if (tape.phase == EMPTY && tape.saved > 0) {
    tape.length = tape.saved;
    tape.saved = 0;
    tape.phase = LOOPED;
    head.playing = 0;
  }
}

/** Writes a place of the loop: what is left of the old, and what comes in. */
function lay(tape: Tape, at: i32, keep: f32, left: f32, right: f32, level: f32, frame: u32): void {
  const length = <i32>tape.length;
  let n = at % length;
  if (n < 0) n += length;
  const oldLeft = load<f32>(tape.place(<u32>n, 0, 0)),
    oldRight: f32 = tape.sides > 1 ? load<f32>(tape.place(<u32>n, 1, 0)) : 0;
  tape.write(
    <u32>n,
    sane(oldLeft * keep + left * level),
    sane(oldRight * keep + right * level),
    time + frame,
  );
}

/** A layer: all places that the head passes with this frame. */
export function overdub(
  head: Head,
  tape: Tape,
  speed: f64,
  old: f32,
  left: f32,
  right: f32,
  frame: u32,
): void {
  const level = head.writing,
    keep: f32 = 1 - level * (1 - old),
    fromPlace = head.place,
    toPlace = fromPlace + speed;
  if (abs(speed) == 1 && fromPlace == floor(fromPlace)) {
    lay(tape, <i32>fromPlace, keep, left, right, level, frame);
    return;
  }
  if (speed == 0) return;
  const step = speed > 0 ? 1 : -1;
  for (
    let n = <i32>(speed > 0 ? ceil(fromPlace) : floor(fromPlace));
    speed > 0 ? <f64>n < toPlace : <f64>n > toPlace;
    n += step
  ) {
    const w = <f32>((<f64>n - fromPlace) / speed);
    lay(
      tape,
      n,
      keep,
      head.beforeLeft + w * (left - head.beforeLeft),
      head.beforeRight + w * (right - head.beforeRight),
      level,
      frame,
    );
  }
}

/** What sounds on after the first recording goes into its beginning. */
export function sew(head: Head, tape: Tape, left: f32, right: f32, frame: u32): void {
  const n = head.seamFrames - head.seam,
    g: f32 = (<f32>n + 0.5) / <f32>head.seamFrames;
  lay(tape, <i32>n, g, left, right, 1 - g, frame);
  head.seam -= 1;
}
