// Decibels, octaves of level and factors.
import { exp2, mul, splat } from "./simd.as";

export const OCTAVES_PER_DB: f32 = 0.166096405;
export const DB_PER_OCTAVE: f32 = 6.02059991;
/** Octaves of a factor e. */
export const LOG2E: f32 = 1.44269504;
/** The fall of 60 dB by which decay times are meant, in octaves of level. */
export const DECAY_OCTAVES: f32 = -9.9657843;
/** Level fields say silence here. */
const SILENCE_DB: f32 = -60;

/** 10^(dB/20). */
@inline export function gainOfDb(db: v128): v128 {
  return exp2(mul(db, splat(OCTAVES_PER_DB)));
}

/** 10^(dB/20) of a constant, exactly 1 at 0 dB without working it out. */
@inline export function gainOfConstantLevel(db: v128): v128 {
  return v128.any_true(f32x4.ne(db, splat(0))) ? gainOfLevel(db) : splat(1);
}

/** 10^(dB/20), exactly 0 at -60 dB and below. */
@inline export function gainOfLevel(db: v128): v128 {
  return v128.and(gainOfDb(db), f32x4.gt(db, splat(SILENCE_DB)));
}
