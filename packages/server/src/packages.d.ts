declare module 'koa-conditional-get' {
  import type { Middleware } from 'koa'
  /** Answers 304 when what the browser has is still right. */
  export default function conditional(): Middleware
}
declare module 'koa-etag' {
  import type { Middleware } from 'koa'
  /** Marks every body with a checksum, of a file by size and time. */
  export default function etag(options?: { readonly weak?: boolean }): Middleware
}
