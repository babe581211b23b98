import { pino } from 'pino'

/** The log of this process: JSON lines on standard error. */
export const log = pino({ level: process.env.SOBER_GATE_LOG ?? 'info', base: { pid: process.pid } }, pino.destination({ dest: 2, sync: true }))
