import { readArguments } from './arguments.ts'
export const SPEED_HELP = `Usage: ./ypsilon speed [--json]\n`
export const speedCommand = (args: string[]): void => { readArguments(args, { json: { type: 'boolean' } }, []) }
