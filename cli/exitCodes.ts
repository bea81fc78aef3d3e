/** What the command line says to scripts. */
export const EXIT = { ok: 0, unexpected: 1, usage: 2, plate: 3, mends: 4, output: 5, stopped: 6 } as const
export type ExitCode = (typeof EXIT)[keyof typeof EXIT]
