import { duration, peopleDuration, type Instant } from '../time';
import { actionText, type Action } from './action';

/**
 * How far something has come that is to be done: `held` back by a limit, `sending` from just before its provider is told, `going` once that has taken it. Then `done`, `failed` or `refused` by the provider, `unknown` where the answer
 * was lost and nobody can say, or `dropped` before anything was sent, such as when what raised it was clear.
 */
export const runStates = ['held', 'sending', 'going', 'done', 'failed', 'refused', 'unknown', 'dropped'] as const;
export type RunState = (typeof runStates)[number];

export const isOver = (state: RunState): boolean => state !== 'held' && state !== 'sending' && state !== 'going';

/** What came of what was done, by what raised it; null while it is watched, and where nothing is. */
export type Effect = 'cleared' | 'still raised';

/** Something that is, was or will be done with a resource. */
export interface Run {
  /** By which the provider knows it; a UUID. */
  readonly key: string;
  readonly action: Action;
  readonly state: RunState;
  /** What its provider said, or what it waits for; empty for nothing. */
  readonly says: string;
  readonly createdAt: Instant;
  readonly sentAt: Instant | null;
  readonly endedAt: Instant | null;
  readonly effect: Effect | null;
  readonly effectAt: Instant | null;
}

/** Whether a response counts it as a failure: what did not help is one. @example isFailure({ state: 'done', effect: 'still raised' }) // true */
export const isFailure = ({ state, effect }: Pick<Run, 'state' | 'effect'>): boolean =>
  state === 'failed' || state === 'refused' || state === 'unknown' || (state === 'done' && effect === 'still raised');

/**
 * How many failures on end the newest of some runs make.
 *
 * @param runs the newest first; those that are not over, or whose effect is not known yet, say nothing
 * @example failuresOnEnd([{ state: 'failed', effect: null }, { state: 'done', effect: 'cleared' }]) // 1
 */
export function failuresOnEnd(runs: readonly Pick<Run, 'state' | 'effect'>[]): number {
  let failures = 0;
  for (const run of runs)
    if (isFailure(run)) failures++;
    else if (run.state === 'done' && run.effect === 'cleared') break;
  return failures;
}

/** How it stands, in a sentence. @example runText(run) // 'Restarted; cleared 4 min later.' */
export function runText(run: Run, channelName?: (id: number) => string): string {
  const { action, state, says, endedAt, effect, effectAt } = run;
  const what = actionText(action, channelName);
  const said = says === '' ? '' : ` ${says}`;
  switch (state) {
    case 'held':
      return `To ${what}: held back.${said}`;
    case 'sending':
      return `To ${what}: its provider is asked.`;
    case 'going':
      return `To ${what}: under way.${said}`;
    case 'done':
      return `${doneText(action)}${effectText(effect, effectAt, endedAt)}.${said}`;
    case 'failed':
      return `To ${what}: failed.${said}`;
    case 'refused':
      return `To ${what}: refused.${said}`;
    case 'unknown':
      return `To ${what}: nobody knows whether it was done.${said}`;
    case 'dropped':
      return `To ${what}: not done.${said}`;
    default:
      throw new RangeError(`runText: no state "${String(state satisfies never)}"`);
  }
}

function doneText(action: Action): string {
  switch (action.kind) {
    case 'restart':
      return 'Restarted';
    case 'stop':
      return 'Stopped';
    case 'start':
      return 'Started';
    case 'size':
      return `Its size is ${action.size} now`;
    case 'count':
      return `Its count is ${action.to} now`;
    case 'more':
      return 'Its count was changed';
    case 'webhook':
      return 'The webhook took it';
    default:
      throw new RangeError(`doneText: no action "${JSON.stringify(action satisfies never)}"`);
  }
}

function effectText(effect: Effect | null, effectAt: Instant | null, endedAt: Instant | null): string {
  if (effect === null || effectAt === null) return '';
  const later = peopleDuration(duration(Math.max(0, effectAt - (endedAt ?? effectAt))));
  return effect === 'cleared' ? `; cleared ${later} later` : `; still raised ${later} later`;
}
