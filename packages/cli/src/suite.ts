/** The speed suite by itself, for measuring in a browser. */
export * from '@ypsilon/core/speed/suite.ts'
export { copiesOfV16 } from '@ypsilon/core/speed/live.ts'
export { Engine } from '@ypsilon/core'
