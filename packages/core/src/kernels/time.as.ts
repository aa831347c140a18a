// What time it is: frames, beats, the rate, and the segment that runs.

export const pi: f64 = 3.141592653589793;
/** Frames per second of this engine. */
export let sampleRate: f32 = 48000;
/** Duration of one frame in seconds. */
export let framePeriod: f64 = 1.0 / 48000;
/**
 * Frames since the engine started; the first frame of the running segment. Comes round after 2^32 (a day at 48 kHz):
 * only differences and places in rings of powers of two may be taken from it.
 */
export let time: u32 = 0;
/** The same without coming round. */
export let frameNow: f64 = 0;
/** Oversampling of shapers: 4 live, 8 best. */
export let oversampling: u32 = 4;
/** Number of the running segment. */
export let segment: u32 = 1;
/** Whoever began to rest before this segment is awake. */
export let wokenAt: u32 = 1;
/** Switched off only to test that resting changes nothing. */
export let restAllowed: bool = true;

export function beginSegment(): void {
  ++segment;
}
/** Wakes everything: a value was set from outside. */
export function wake(): void {
  wokenAt = segment + 1;
}
/** Wakes everything in the segment that is running. */
export function wakeNow(): void {
  wokenAt = segment;
}
export function allowRest(allowed: u32): void {
  restAllowed = allowed != 0;
  wake();
}

/** Beats per frame, and beats since the transport's start at `beatFrame`. One straight line between changes, so that the beat of a frame never depends on how time was cut. */
export let beatsPerFrame: f64 = 0;
export let beats: f64 = 0;
export let beatFrame: u32 = 0;
/** The same of the external clock. */
export let outerBeatsPerFrame: f64 = 0;
export let outerBeats: f64 = 0;
export let outerFrame: u32 = 0;
export let outerRunning: u32 = 0;
/** Beats since the transport's start at frame `f` of the segment. */
// @ts-ignore: decorator
@inline export function beatAt(f: u32): f64 {
  return beats + <f64>(time + f - beatFrame) * beatsPerFrame;
}
// @ts-ignore: decorator
@inline export function outerBeatAt(f: u32): f64 {
  return outerBeats + <f64>(<i32>(time + f - outerFrame)) * outerBeatsPerFrame;
}
/** 1 while the transport runs. */
export let running: u32 = 1;
/** Counts transport starts and jumps, so that followers can begin anew. */
export let starts: u32 = 0;

export function setRate(rate: f32): void {
  sampleRate = rate;
  framePeriod = 1.0 / <f64>rate;
}
export function setTime(frame: f64): void {
  time = <u32>(<u64>frame);
  frameNow = frame;
}
export function setOversampling(factor: u32): void {
  oversampling = factor;
}
export let outerStarts: u32 = 0;
export function setOuterClock(
  position: f64,
  perFrame: f64,
  frame: u32,
  isRunning: u32,
  startCount: u32,
): void {
  outerStarts = startCount;
  outerBeats = position;
  outerBeatsPerFrame = perFrame;
  outerFrame = frame;
  outerRunning = isRunning;
}
export function setTransport(
  position: f64,
  perFrame: f64,
  frame: u32,
  isRunning: u32,
  startCount: u32,
): void {
  beatFrame = frame;
  beats = position;
  beatsPerFrame = perFrame;
  running = isRunning;
  starts = startCount;
}
