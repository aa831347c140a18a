/** The speed suite by itself, for measuring in a browser. */
export * from '@ypsilon/core/speed/suite.ts'
