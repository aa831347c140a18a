// How settings become gains and lengths of a room: every sixteen frames, with straight lines between.
import { firstOf, numberOf } from "../../../kernels/lanes.as";
import * as P from "../../../generated/reverb.as";
import { tangentOfShare } from "../../../kernels/filters.as";
import { DECAY_OCTAVES } from "../../../kernels/levels.as";
import { add, exp2, log2, mul, sineOfCycles, splat, sub } from "../../../kernels/simd.as";
import { frameNow, sampleRate } from "../../../kernels/time.as";
import {
  EARLY,
  FADED,
  GOALS,
  LATE,
  LENGTH_BYTES,
  LINES,
  NEXT,
  NEXT_TAP_GAINS,
  NOW,
  OTHER,
  OWN,
  Room,
  ROUND0,
  ROUNDS,
  SEEN,
  STEP,
  TAP_GAINS,
  TAPS,
} from "./room.as";

/** Numbers of the table of a model: after the lengths of lines and rounds the taps, each times and gains. */
const MODEL_BYTES: usize = 416,
  TABLE_TAPS: usize = 256,
  TABLE_LATE: usize = 384;
/** The least that a line may hold: sixteen frames are read at once. */
const SHORTEST: f32 = 20;
/** Decays shorter than this have shorter ways as well, or there would be nothing but gaps. */
const SMALL_DECAY: f32 = 0.6;
const SIZE_OCTAVES: f32 = 2.4;
const FADE_SECONDS: f32 = 0.04,
  FREEZE_SECONDS: f32 = 0.03;
/** Damping begins where it is set: the filter's corner lies above, that of the lows below 250 Hz. */
const ABOVE: f32 = 1.5,
  LOW_HERTZ: f32 = 250;
const HIGHEST: f32 = 19999,
  LOWEST: f32 = 20.001;
/** Full motion turns a pair of lines so far, in cycles. */
const TURN: f32 = 0.14;
const LOW_TONE_HERTZ: f32 = 200;
const NEAR_SECONDS: f32 = 0.01,
  CLOSE: f32 = 1e-4;
/** Starts straight lines from where the last ones led to new goals: value, step, goal, each `vectors` apart. */
function aim(at: usize, vectors: usize, n: usize, goal: v128, starts: bool): void {
  const from = starts ? goal : v128.load(at + ((2 * vectors + n) << 4));
  v128.store(at + (n << 4), from);
  v128.store(at + ((vectors + n) << 4), mul(sub(goal, from), splat(1 / <f32>STEP)));
  v128.store(at + ((2 * vectors + n) << 4), goal);
}

/** Lengths of a model at a scale, in whole frames, into the next ones. */
function measure(room: Room, table: usize, most: usize): void {
  const perMs = room.scale * sampleRate * 0.001;
  for (let n: u32 = 0; n < LINES; ++n)
    storeLength(room, n, load<f32>(table + (n << 2)) * perMs, SHORTEST, load<u32>(most, 12));
  for (let n: u32 = 0; n < ROUNDS * LINES; ++n)
    storeLength(
      room,
      ROUND0 + n,
      load<f32>(table + ((LINES + n) << 2)) * perMs,
      0,
      n < LINES ? load<u32>(most, 4) : load<u32>(most, 8),
    );
  for (let n: u32 = 0; n < TAPS; ++n) {
    storeLength(room, OWN + n, load<f32>(table + TABLE_TAPS + (n << 2)) * perMs, 0, load<u32>(most, 4));
    storeLength(
      room,
      OTHER + n,
      load<f32>(table + TABLE_TAPS + ((2 * TAPS + n) << 2)) * perMs,
      0,
      load<u32>(most, 4),
    );
  }
  storeLength(room, LATE, load<f32>(table + TABLE_LATE) * perMs, 0, load<u32>(most, 4));
  // The first round stands behind the tail's begin.
  for (let n: u32 = 0; n < LINES; ++n) {
    const at = room.address + NEXT + ((ROUND0 + n) << 2);
    store<u32>(at, min<u32>(load<u32>(at) + room.nextLength(LATE), load<u32>(most, 4)));
  }
}


@inline function storeLength(room: Room, n: u32, frames: f32, least: f32, most: u32): void {
  store<u32>(room.address + NEXT + ((<usize>n) << 2), <u32>min(max(nearest(frames), least), <f32>most));
}

/** Taps die away as the tail does. */
function setTaps(room: Room, table: usize): void {
  const perFrame = DECAY_OCTAVES / (room.decay * sampleRate);
  for (let n: u32 = 0; n < TAPS; ++n) {
    const own = load<f32>(table + TABLE_TAPS + ((TAPS + n) << 2)),
      other = load<f32>(table + TABLE_TAPS + ((3 * TAPS + n) << 2));
    const at = room.address + NEXT_TAP_GAINS + (n << 2);
    store<f32>(at, own * firstOf(exp2(splat(perFrame * <f32>room.nextLength(OWN + n)))));
    store<f32>(at, other * firstOf(exp2(splat(perFrame * <f32>room.nextLength(OTHER + n)))), TAPS << 2);
  }
}

/** A way from 0 to 1 without corners. */
@inline function eased(way: f32): f32 {
  return way * way * (3 - 2 * way);
}

/** Gain of every line for its length, and how much less (or more) highs and lows are to have. */
function setGains(room: Room, highDecay: f32, lowDecay: f32, starts: bool): void {
  const play: f32 = <f32>1 - room.frozen;
  const perFrame: f32 = (DECAY_OCTAVES / (room.decay * sampleRate)) * play;
  for (let b: usize = 0; b < 4; ++b) {
    const last = f32x4.convert_i32x4_s(v128.load(room.address + NOW + (b << 4))),
      next = f32x4.convert_i32x4_s(v128.load(room.address + NEXT + (b << 4)));
    // While lengths change, what both lose.
    const frames = add(last, mul(sub(next, last), splat(eased(room.faded))));
    const lost = mul(frames, splat(perFrame));
    // Signs as good as random, the same for all rooms.
    const signs = f32x4(1, b & 1 ? -1 : 1, b > 1 ? -1 : 1, b == 1 || b == 2 ? -1 : 1);
    aim(room.gains, 4, b, mul(exp2(lost), signs), starts);
    const high = exp2(mul(lost, splat((1 / highDecay - 1) * <f32>(1.0 / 3.0)))),
      low = exp2(mul(lost, splat((1 / lowDecay - 1) * 0.5)));
    const at = room.shelves + (b << 4),
      one = splat(1);
    v128.store(at, sub(high, one));
    v128.store(at, sub(mul(high, high), one), 64);
    v128.store(at, mul(sub(low, one), splat(1.4142135)), 128);
    v128.store(at, sub(mul(low, low), one), 192);
  }
}

/** The lines turn among one another in pairs, each at a pace of its own; the time alone says how far. */
function turn(room: Room, motion: f32, frame: u32, starts: bool): void {
  const reach: f32 = TURN * motion * (<f32>1 - room.frozen),
    seconds = (frameNow + <f64>frame - room.born + (starts ? 0 : <f64>STEP)) / <f64>sampleRate;
  for (let half: usize = 0; half < 2; ++half) {
    const c0 = <f64>half * 4;
    const where = f32x4(
      cyclesAt(seconds, c0),
      cyclesAt(seconds, c0 + 1),
      cyclesAt(seconds, c0 + 2),
      cyclesAt(seconds, c0 + 3),
    );
    const angle = mul(sineOfCycles(where), splat(reach));
    // cos x = 1 - 2 sin^2 (x / 2)
    const s = sineOfCycles(mul(angle, splat(0.5)));
    aim(room.turns, 4, half, sub(splat(1), mul(splat(2), mul(s, s))), starts);
    aim(room.turns, 4, half + 2, sineOfCycles(angle), starts);
  }
}
/** Where the wave of a pair is, in cycles within -0.5…0.5: paces between 0.23 and 0.79 Hz that share nothing. */
function cyclesAt(seconds: f64, pair: f64): f32 {
  const pace = 0.23 + 0.07 * pair + 0.011 * pair * pair * 0.618;
  const cycles = seconds * pace + pair * 0.381966;
  return <f32>(cycles - Math.floor(cycles + 0.5));
}

/** `most`: the longest way of each kind of ring: before, after the predelay, rounds, lines. */
export function settle(m: P.Module, room: Room, most: usize, g: u32, frame: u32, lane: usize): void {
  const starts = room.isStarted == 0;
  room.isStarted = 1;
  if (starts) room.born = frameNow + <f64>frame;
  const model = m.model,
    table = m.table + <usize>model * MODEL_BYTES;
  const isHeld = numberOf(m.freeze, g, frame, lane) > 0.5,
    step = <f32>STEP / (FREEZE_SECONDS * sampleRate);
  room.frozen = starts
    ? isHeld
      ? 1
      : 0
    : isHeld
      ? min<f32>(room.frozen + step, 1)
      : max<f32>(room.frozen - step, 0);
  const play: f32 = <f32>1 - room.frozen;
  if (room.frozen == 0 || starts) room.decay = near(room.decay, numberOf(m.decay, g, frame, lane), starts);
  const scale =
    firstOf(exp2(splat(SIZE_OCTAVES * (numberOf(m.size, g, frame, lane) - 0.5)))) *
    min<f32>(1, room.decay / SMALL_DECAY);
  // Lengths change by a fade, one after the other; what is frozen keeps its own.
  if (starts || (room.frozen == 0 && room.faded >= 1 && (room.model != model || room.scale != scale))) {
    if (!starts) memory.copy(room.address + NOW, room.address + NEXT, LENGTH_BYTES);
    // The new lengths begin at nothing.
    store<f32>(room.ramps + GOALS + FADED, 0);
    room.model = model;
    room.scale = scale;
    memory.copy(room.address + TAP_GAINS, room.address + NEXT_TAP_GAINS, TAPS << 3);
    measure(room, table, most);
    if (starts) memory.copy(room.address + NOW, room.address + NEXT, LENGTH_BYTES);
    room.faded = starts ? 1 : 0;
  } else if (room.faded < 1) room.faded = min<f32>(1, room.faded + <f32>STEP / (FADE_SECONDS * sampleRate));
  const places = m.table + <usize>room.model * MODEL_BYTES;
  setTones(m, room, places, g, frame, lane, starts);
  if (hasMoved(room)) {
    setTaps(room, places);
    if (starts) memory.copy(room.address + TAP_GAINS, room.address + NEXT_TAP_GAINS, TAPS << 3);
    setGains(room, room.damping > HIGHEST ? <f32>1 : room.highDecay, room.lowDecay, starts);
  }
  turn(room, numberOf(m.motion, g, frame, lane), frame, starts);
  // Half way there is much scattered already.
  const direct = <f32>1 - numberOf(m.diffusion, g, frame, lane),
    diffusion: f32 = (<f32>1 - direct * direct) * 0.25;
  const tail = places + TABLE_LATE;
  if (room.frozen == 0 || starts) {
    const level = load<f32>(tail, 16) * firstOf(exp2(mul(splat(-0.25), log2(splat(room.decay * 0.5)))));
    room.level = near(room.level, level, starts);
  }
  room.across = near(room.across, load<f32>(tail, 20), starts);
  room.loudness = near(room.loudness, load<f32>(tail, 16), starts);
  const goal = f32x4(
    play,
    3 * numberOf(m.early, g, frame, lane) * play * room.loudness,
    firstOf(sineOfCycles(splat(0.25 - diffusion))),
    firstOf(sineOfCycles(splat(diffusion))),
  );
  room.isMute = f32x4.extract_lane(goal, 1) == 0 && load<f32>(room.ramps + EARLY) == 0 ? 1 : 0;
  aimRamps(room, 0, goal, starts);
  aimRamps(room, 1, f32x4(room.level, eased(room.faded), room.across, 0), starts);
  const predelay = nearest(numberOf(m.predelay, g, frame, lane) * sampleRate * 0.001);
  room.predelayWay = starts ? 0 : room.predelayWay + room.predelay - predelay;
  room.predelay = predelay;
}

/** A step of a value's way to its goal, by 63 % in 10 ms. */
function near(value: f32, goal: f32, starts: bool): f32 {
  const way = goal - value;
  return starts || abs(way) < goal * CLOSE ? goal : value + way * (<f32>STEP / (NEAR_SECONDS * sampleRate));
}


@inline function aimRamps(room: Room, n: usize, goal: v128, starts: bool): void {
  aim(room.ramps, 2, n, goal, starts);
}

/** Has anything that gains and taps follow moved since the last settling but one? Their lines end at the one after it. */
function hasMoved(room: Room): bool {
  const seen = room.address + SEEN,
    now = f32x4(room.decay, room.highDecay, room.lowDecay, room.frozen),
    more = f32x4(room.damping > HIGHEST ? 1 : 0, room.scale, <f32>room.model, room.faded);
  const moved = v128.or(v128.xor(v128.load(seen), now), v128.xor(v128.load(seen, 16), more));
  v128.store(seen, now);
  v128.store(seen, more, 16);
  room.still = v128.any_true(moved) ? 0 : min<u32>(room.still + 1, 9);
  return room.still < 2;
}

/** What goes in: its cut and its tone; and where the shelves of the lines stand. */
function setTones(
  m: P.Module,
  room: Room,
  places: usize,
  g: u32,
  frame: u32,
  lane: usize,
  starts: bool,
): void {
  room.damping = near(room.damping, numberOf(m.damping, g, frame, lane), starts);
  room.highDecay = near(room.highDecay, numberOf(m.highDecay, g, frame, lane), starts);
  room.lowDecay = near(room.lowDecay, numberOf(m.lowDecay, g, frame, lane), starts);
  const lowcut = numberOf(m.lowcut, g, frame, lane),
    damping = room.damping;
  room.hasHigh = damping <= HIGHEST && room.highDecay != 1 ? 1 : 0;
  room.hasLow = room.lowDecay != 1 ? 1 : 0;
  room.hasCut = lowcut > LOWEST ? 1 : 0;
  room.toneHertz = near(room.toneHertz, load<f32>(places + TABLE_LATE, 12), starts);
  const tangents = tangentOfShare(
    mul(f32x4(damping * ABOVE, LOW_HERTZ / ABOVE, lowcut, room.toneHertz), splat(1 / sampleRate)),
  );
  room.highTangent = f32x4.extract_lane(tangents, 0);
  room.lowTangent = f32x4.extract_lane(tangents, 1);
  room.cutTangent = f32x4.extract_lane(tangents, 2);
  room.toneTangent = f32x4.extract_lane(tangents, 3);
  room.lowToneTangent = firstOf(tangentOfShare(splat(LOW_TONE_HERTZ / sampleRate)));
  room.toneLow = near(room.toneLow + 1, load<f32>(places + TABLE_LATE, 4), starts) - 1;
  room.toneHigh = near(room.toneHigh + 1, load<f32>(places + TABLE_LATE, 8), starts) - 1;
}
