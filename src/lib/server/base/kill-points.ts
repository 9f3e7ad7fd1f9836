/** Steps between a judgement and its message being noted as sent, in their order: before each is committed or done, and after. */
export const killPoints = [
  'recording',
  'recorded',
  'routing',
  'routed',
  'queueing',
  'queued',
  'sending',
  'taken',
  'noted'
] as const;
/** Those between something being decided that is to be done and what came of it being noted. */
export const actPoints = ['deciding', 'decided', 'acted', 'answered'] as const;
export type KillPoint = (typeof killPoints)[number] | (typeof actPoints)[number];

/** The point at which this process is to end, for tests of what is left then: `BUSSOLA_KILL_AT=sending`. Never without it. */
const wanted = process.env['BUSSOLA_KILL_AT'];

/** Ends the process as a loss of power would, if it is to end here. @example passes('sending') */
export function passes(point: KillPoint): void {
  if (wanted === point) process.kill(process.pid, 'SIGKILL');
}
