// What a convolver does between blocks: the first level's partitions at once, those of the others in steps while the next
// block of their length comes in; a change of the response as a second one that is faded to over a longest block.
import { stagesOf, transform } from "../../../kernels/fourier.as";
import {
  framesOf,
  groupsOf,
  Line,
  LONG_FRAMES,
  Places,
  Response,
  rowBytes,
  SHORT_FRAMES,
  spectraAt,
  UNIT,
} from "./line.as";
import { beginPart, buildOn } from "./sets.as";
import { BANK, Bank, separate, sumGroups } from "./spectra.as";

/** Begins with nothing that sounds, and with the part that is asked for. */
export function wake(line: Line, response: Response, places: Places, first: u32, count: u32): void {
  if (line.isFading || line.isPending) line.playing = line.next;
  line.isFading = 0;
  line.isPending = 0;
  line.isAwake = 1;
  line.slot = 0;
  line.age = 0;
  line.part(line.next).isThere = 0;
  const part = line.part(line.playing);
  if (part.isThere == 0 || part.first != first || part.count != count)
    beginPart(response, part, places.set(line.playing), first, count);
  memory.fill(places.zeroed, 0, places.zeroedEnd - places.zeroed);
}

/** Rows of the job of a level for a part: real and imaginary, then both to work in. */
// @ts-ignore: decorator
@inline function jobOf(places: Places, level: u32, set: u32): usize {
  return places.level(level).job + <usize>set * 4 * rowBytes(level);
}

/** Stages of the transform of what came in, in the rows of the part that plays. */
function forward(line: Line, response: Response, places: Places, level: u32, from: u32, to: u32): void {
  const row = rowBytes(level),
    stages = stagesOf(level),
    re = jobOf(places, level, 0);
  transform(level, from, min(to, stages), re, re + row, re + 2 * row, re + 3 * row);
  if (to <= stages) return;
  const made = stages & 1 ? re + 2 * row : re,
    room = response.room(level),
    into = places.level(level).spectra + <usize>line.turn(level, room) * 2 * UNIT;
  separate(made, made + row, framesOf(level), 1, into, <usize>room * 2 * UNIT, UNIT);
}

/** Groups of the sums over all partitions of a level that a part has by now. */
function sum(line: Line, response: Response, places: Places, level: u32, set: u32, from: u32, to: u32): void {
  const bank = changetype<Bank>(BANK),
    row = rowBytes(level),
    re = jobOf(places, level, set);
  bank.inputs = places.level(level).spectra;
  bank.slots = response.room(level);
  bank.newest = line.newest(level);
  bank.response = places.set(set) + spectraAt(response, level);
  bank.channels = response.channels;
  bank.room = bank.slots;
  bank.count = line.part(set).builtOf(level);
  sumGroups(bank, from, to, framesOf(level), re, re + row);
}


@inline function backward(places: Places, level: u32, set: u32, from: u32, to: u32): void {
  const row = rowBytes(level),
    re = jobOf(places, level, set);
  transform(level, from, min(to, stagesOf(level)), re + row, re, re + 3 * row, re + 2 * row);
}

/** What was worked out is heard from now on. */
function putOut(places: Places, level: u32, set: u32): void {
  const row = rowBytes(level),
    bytes = (<usize>framesOf(level)) << 2,
    made = jobOf(places, level, set) + (stagesOf(level) & 1 ? 2 * row : 0),
    out = places.level(level).out + <usize>set * 2 * bytes;
  memory.copy(out, made + bytes, bytes);
  memory.copy(out + bytes, made + row + bytes, bytes);
}

/** A block of a level is over: it and the one before go to be worked on. */
function take(places: Places, level: u32): void {
  const bytes = (<usize>framesOf(level)) << 2,
    input = places.level(level).input,
    re = jobOf(places, level, 0);
  memory.copy(re, input, 2 * bytes);
  memory.copy(re + rowBytes(level), input + 2 * bytes, 2 * bytes);
  memory.copy(input, input + bytes, bytes);
  memory.copy(input + 2 * bytes, input + 3 * bytes, bytes);
}

/**
 * A step of the work of a level: a quarter of them for the transform of what came in, half for the sums, a quarter for the
 * way back.
 */
function step(line: Line, response: Response, places: Places, level: u32, n: u32): void {
  const steps = framesOf(level) / SHORT_FRAMES,
    quarter = steps >> 2,
    stages = stagesOf(level);
  if (n < quarter) {
    const all = stages + 1;
    forward(line, response, places, level, (n * all) / quarter, ((n + 1) * all) / quarter);
    return;
  }
  const groups = groupsOf(level),
    half = steps >> 1,
    at = n - quarter;
  for (let set: u32 = 0; set < 2; ++set) {
    if (!line.uses(set)) continue;
    if (at < half) sum(line, response, places, level, set, (at * groups) / half, ((at + 1) * groups) / half);
    else {
      const m = at - half;
      backward(places, level, set, (m * stages) / quarter, ((m + 1) * stages) / quarter);
    }
  }
}

/** The first level: all of it at once. */
function hurry(line: Line, response: Response, places: Places): void {
  take(places, 0);
  forward(line, response, places, 0, 0, stagesOf(0) + 1);
  for (let set: u32 = 0; set < 2; ++set) {
    if (!line.uses(set)) continue;
    sum(line, response, places, 0, set, 0, groupsOf(0));
    backward(places, 0, set, 0, stagesOf(0));
    putOut(places, 0, set);
  }
}

/** A longest block is over: where a part waits its sound is worked out, then it fades in, then it plays. */
function turnParts(line: Line): void {
  line.slot = 0;
  if (line.isFading) {
    line.part(line.playing).isThere = 0;
    line.playing = line.next;
    line.isFading = 0;
  } else if (line.isPending) {
    line.isPending = 0;
    line.isFading = 1;
  } else if (line.part(line.next).isThere && line.part(line.next).isBuilt) line.isPending = 1;
}

/** A short block is over; `first` and `count` are the part that is asked for now. */
export function turn(line: Line, response: Response, places: Places, first: u32, count: u32): void {
  const playing = line.part(line.playing),
    coming = line.part(line.next);
  if (!playing.isBuilt) buildOn(response, playing, places.set(line.playing), places);
  else if (coming.isThere) {
    if (!coming.isBuilt) buildOn(response, coming, places.set(line.next), places);
  } else if (playing.first != first || playing.count != count)
    beginPart(response, coming, places.set(line.next), first, count);
  line.slot += SHORT_FRAMES;
  line.age = min(line.age + SHORT_FRAMES, 2 * LONG_FRAMES);
  for (let level: u32 = 1; level < response.levels; ++level) {
    const frames = framesOf(level),
      at = line.slot & (frames - 1);
    if (at != 0) continue;
    // Nothing was worked on in the first block.
    if (line.age > frames)
      for (let set: u32 = 0; set < 2; ++set) if (line.uses(set)) putOut(places, level, set);
    take(places, level);
  }
  if (line.slot == LONG_FRAMES) turnParts(line);
  for (let level: u32 = 1; level < response.levels; ++level) {
    const frames = framesOf(level);
    if (line.age >= frames) step(line, response, places, level, (line.slot & (frames - 1)) / SHORT_FRAMES);
  }
  if (response.room(0) > 0) hurry(line, response, places);
  else take(places, 0);
}
