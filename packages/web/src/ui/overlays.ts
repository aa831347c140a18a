/** Id of the part of the page that menus, sheets and tooltips stand in: one landmark for all of them. */
export const OVERLAYS = 'overlays'

/** That part; null until it is on the page, where they stand at its end. */
export const overlays = (): HTMLElement | null => document.getElementById(OVERLAYS)
