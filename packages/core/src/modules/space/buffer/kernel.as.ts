// Buffer: a looper. The loop is as long as record was high; what sounds on after it is faded into its beginning, so that it
// goes round without a seam. Later recordings are layers, written where the head is, whatever its speed.
import * as P from "../../../generated/buffer.as";
import { numberOf } from "../../../kernels/lanes.as";
import { triggerFrames } from "../../../kernels/pulses.as";
import { Signal } from "../../../kernels/signal.as";
import { beatAt, beatsPerFrame, running, sampleRate, time } from "../../../kernels/time.as";
import { close, FADE_SECONDS, fadeFrames, Head, overdub, record, sane, sew, undo } from "./recording.as";
import { EMPTY, FIRST, LOOPED, readTape, Tape, tapeOf } from "./tape.as";

const BEATS_A_BAR: f64 = 4;
const HEADS_BYTES: usize = 128;
/** Gates that are watched, as bits. */
const RECORD: u32 = 1,
  CLEAR: u32 = 2,
  PLAY: u32 = 4,
  UNDO: u32 = 8,
  RESET: u32 = 16;

/** Does a beat or a bar begin with this frame? Always where nothing is waited for. */
function isDue(quantize: i32, frame: u32): bool {
  if (quantize == P.QUANTIZE_OFF || !running || beatsPerFrame <= 0) return true;
  const unit = quantize == P.QUANTIZE_BAR ? BEATS_A_BAR : 1.0,
    now = beatAt(frame) / unit + 1e-9,
    before = now - beatsPerFrame / unit;
  return floor(now) != floor(before);
}

/** First and last place of the part that plays. */
let first: f64 = 0;
let limit: f64 = 0;
function findPart(m: P.Module, tape: Tape, g: u32, frame: u32, lane: usize): void {
  const a = <f64>numberOf(m.loopStart, g, frame, lane),
    b = <f64>numberOf(m.loopEnd, g, frame, lane),
    length = <f64>tape.length;
  first = min(floor(min(a, b) * length), max(length - 1, 0));
  limit = max(floor(max(a, b) * length), first + 1);
}


@inline function jumpTo(head: Head, place: f64): void {
  head.last = head.place;
  head.place = place;
  head.jumping = fadeFrames();
}

/** Begins to play at the start of its part. */
function start(head: Head, speed: f64): void {
  const place = speed < 0 ? limit - 1 : first;
  if (head.playing > 0) jumpTo(head, place);
  else head.place = place;
  head.plays = 1;
}


@inline function bit(signal: Signal, g: u32, frame: u32, lane: usize, mask: u32): u32 {
  return numberOf(signal, g, frame, lane) > 0.5 ? mask : 0;
}

/** Gates and triggers of a frame. */
function obey(m: P.Module, head: Head, tape: Tape, g: u32, frame: u32, lane: usize, speed: f64): void {
  const gates =
    bit(m.record, g, frame, lane, RECORD) |
    bit(m.clear, g, frame, lane, CLEAR) |
    (m.play.isCabled ? bit(m.play, g, frame, lane, PLAY) : PLAY) |
    bit(m.undo, g, frame, lane, UNDO) |
    bit(m.reset, g, frame, lane, RESET);
  const rises = gates & ~head.gates;
  head.gates = gates;
  if (!(gates & RECORD)) head.isFull = 0;
  const wanted: u32 = gates & RECORD && !head.isFull ? 1 : 0,
    had = tape.phase;
  if (wanted != head.records && isDue(m.quantize, frame)) record(head, tape, wanted);
  if (tape.phase == FIRST && tape.length >= tape.room) {
    head.isFull = 1;
    record(head, tape, 0);
  }
  if (rises & CLEAR && tape.phase == LOOPED) head.clearing = fadeFrames();
  if (rises & UNDO) undo(head, tape);
  findPart(m, tape, g, frame, lane);
  if (tape.phase != LOOPED) head.plays = 0;
  else if (!(gates & PLAY)) head.plays = 0;
  else if (rises & PLAY || had != LOOPED) start(head, speed);
  else if (rises & RESET && head.plays) start(head, speed);
}

/** The head goes on by a frame: round, or to an end. */
function advance(m: P.Module, head: Head, tape: Tape, speed: f64): void {
  head.place += speed;
  if (head.jumping > 0) {
    head.last += speed;
    head.jumping -= 1;
  }
  if (head.place >= first && head.place < limit) return;
  const isAway = head.place < first - abs(speed) || head.place >= limit + abs(speed);
  if (m.mode == P.MODE_ONCE && !isAway) {
    head.plays = 0;
    head.playing = 0;
    head.endLeft = triggerFrames();
    return;
  }
  const length = limit - first,
    place = head.place - floor((head.place - first) / length) * length;
  // A whole loop goes on as it was recorded; a part of it, and a head that stood elsewhere, cross-fade.
  if (first == 0 && limit == <f64>tape.length && !isAway) head.place = place;
  else jumpTo(head, place);
  if (!isAway) head.endLeft = triggerFrames();
}

/** What is heard of a side at the head. */
function heard(m: P.Module, head: Head, tape: Tape, side: u32, frame: u32): f32 {
  let y = readTape(tape, head.place, side, m.interpolation, time + frame);
  if (head.jumping > 0) {
    const w: f32 = <f32>head.jumping / <f32>fadeFrames();
    y += w * (readTape(tape, head.last, side, m.interpolation, time + frame) - y);
  }
  return y * head.playing;
}


@inline function towards(level: f32, goal: f32): f32 {
  const step: f32 = 1 / (FADE_SECONDS * sampleRate);
  return level < goal ? min<f32>(level + step, goal) : max<f32>(level - step, goal);
}

/** Where the loop is recorded and played in a frame. */
function step(m: P.Module, head: Head, tape: Tape, g: u32, frame: u32, lane: usize, right: usize): void {
  const speed = <f64>numberOf(m.speed, g, frame, lane),
    l = sane(numberOf(m.in, g, frame, lane)),
    r = sane(numberOf(m.in, g, frame, right));
  obey(m, head, tape, g, frame, lane, speed);
  const isPlaced = m.mode == P.MODE_POSITION && tape.phase == LOOPED;
  if (isPlaced)
    head.place = min(first + <f64>numberOf(m.position, g, frame, lane) * (limit - first), limit - 1);
  head.writing = towards(head.writing, tape.phase == LOOPED && head.records ? 1 : 0);
  head.playing = towards(head.playing, head.plays && head.clearing == 0 ? 1 : 0);
  if (head.seam > 0 && tape.phase == LOOPED) sew(head, tape, l, r, frame);
  leftNow = 0;
  rightNow = 0;
  if (head.playing > 0 && tape.phase == LOOPED) {
    leftNow = heard(m, head, tape, 0, frame);
    if (tape.sides > 1) rightNow = heard(m, head, tape, 1, frame);
  }
  const at = tape.phase == FIRST ? <f64>tape.length : head.place;
  if (tape.phase == FIRST) {
    tape.write(tape.length, l, r, time + frame);
    tape.length += 1;
  } else if (head.writing > 0 && tape.phase == LOOPED)
    overdub(head, tape, isPlaced ? 1 : speed, numberOf(m.overdub, g, frame, lane), l, r, frame);
  headNow = tape.length > 0 ? <f32>(at / <f64>tape.length) : 0;
  if (tape.phase == LOOPED && !isPlaced && (head.playing > 0 || head.writing > 0))
    advance(m, head, tape, speed);
  tape.noteHead(time + frame, at, tape.phase == FIRST ? <f64>tape.length : head.place);
  if (tape.turning > 0) tape.turning -= 1;
  if (head.clearing > 0) {
    head.clearing -= 1;
    if (head.clearing == 0) {
      tape.saved = tape.length;
      tape.length = 0;
      tape.phase = EMPTY;
    }
  }
  head.beforeLeft = l;
  head.beforeRight = r;
}
let leftNow: f32 = 0;
let rightNow: f32 = 0;
let headNow: f32 = 0;

export function process(m: P.Module, frame: u32, frames: u32): void {
  const voices = m.voiceCount,
    sides = m.sideCount,
    voiceBytes = m.auxBytes / voices;
  let resting = true;
  for (let n: u32 = 0; n < voices; ++n) {
    const tape = tapeOf(m.aux, n, voiceBytes),
      at = n * sides,
      g = at >> 2,
      lane = (<usize>(at & 3)) << 2,
      right = lane + (sides > 1 ? 4 : 0),
      head = changetype<Head>(headOf(m, n));
    tape.room = load<u32>(m.table);
    tape.sides = sides;
    if (head.isStarted == 0) {
      head.isStarted = 1;
      head.records = 0;
      // A recording that was under way when everything was silenced is over.
      if (tape.phase == FIRST) close(head, tape);
      head.gates = m.play.isCabled ? 0 : PLAY;
      if (tape.phase == LOOPED && !m.play.isCabled) head.plays = 1;
    }
    for (let f: u32 = 0; f < frames; ++f) {
      step(m, head, tape, g, frame + f, lane, right);
      if (m.outOut.isWanted) {
        const out = m.outOut.write(g, frame + f);
        store<f32>(out + lane, leftNow);
        if (sides > 1) store<f32>(out + right, rightNow);
      }
      put(m.outHead, g, frame + f, lane, right, headNow);
      put(m.outEnd, g, frame + f, lane, right, head.endLeft > 0 ? 1 : 0);
      head.endLeft = max(head.endLeft - 1, 0);
    }
    if (tape.phase != EMPTY || head.playing > 0 || head.endLeft > 0 || head.gates & ~PLAY) resting = false;
  }
  if (resting) m.rest();
}


@inline function put(out: Signal, g: u32, frame: u32, lane: usize, right: usize, value: f32): void {
  if (!out.isWanted) return;
  const to = out.write(g, frame);
  store<f32>(to + lane, value);
  store<f32>(to + right, value);
}


@inline function headOf(m: P.Module, n: u32): usize {
  const each = 4 / m.sideCount;
  return m.state(n / each).headsAt + <usize>(n % each) * HEADS_BYTES;
}
