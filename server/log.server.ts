import pino from 'pino'

/** One JSON line for each event, on standard error, so that standard output stays for results. */
export const log = pino({ level: process.env['FILLAGRANT_LOG'] ?? 'info' }, pino.destination(2))
