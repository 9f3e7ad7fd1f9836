import { peopleDuration, spokenDuration, times, type Duration } from '../time';
import { stepOf } from '../signal';
import { limitText, quantityText, unit } from '../units';
import type { Rehearsal } from './rehearse';
import type { AlarmDefinition } from './schema';
import { isShare, type Seen } from './suggest';

/** What a preflight knows of the world around an alarm. */
export interface PreflightFacts {
  /** What is watched: the unit of the threshold, and the slowest sampling and reporting of its metrics. */
  readonly watched: {
    readonly unit: string;
    readonly samplingMs: Duration;
    readonly delayMs: Duration;
    /** How often the slowest of what it watches is requested. */
    readonly everyMs: Duration;
  };
  /** The smallest and the largest value of the last day; null while they are not known. */
  readonly seen: Pick<Seen, 'smallest' | 'largest'> | null;
  /** How many series the signal picks at present; null while that is not known. */
  readonly series: number | null;
  readonly channels: readonly { readonly id: number; readonly address: string; readonly confirmed: boolean }[];
  /** The rehearsal over the last day; null while there is none. */
  readonly rehearsal: Rehearsal | null;
}

/** One check in plain words. */
export interface PreflightCheck {
  readonly id: 'told' | 'confirmed' | 'matches' | 'window' | 'timing' | 'batches' | 'threshold' | 'calm';
  readonly passed: boolean;
  readonly says: string;
}

/** Raised more often than this in a day, an alarm is soon ignored. */
const calmPerDay = 6;

/**
 * The checks an alarm passes before it is trusted, what needs care first.
 *
 * @example preflight(alarm, facts).filter(({ passed }) => !passed).map(({ says }) => says)
 * // ['Nobody would hear it: choose a channel.']
 */
export function preflight(alarm: AlarmDefinition, facts: PreflightFacts): PreflightCheck[] {
  const checks = [
    toldCheck,
    confirmedCheck,
    matchesCheck,
    windowCheck,
    timingCheck,
    batchesCheck,
    thresholdCheck,
    calmCheck
  ].flatMap((check) => check(alarm, facts));
  return [...checks.filter(({ passed }) => !passed), ...checks.filter(({ passed }) => passed)];
}

type Check = (alarm: AlarmDefinition, facts: PreflightFacts) => PreflightCheck[];

const toldCheck: Check = ({ channels }) =>
  channels.length === 0 ? [{ id: 'told', passed: false, says: 'Nobody would hear it: choose a channel.' }] : [];

const confirmedCheck: Check = ({ channels }, facts) => {
  const notified = facts.channels.filter(({ id }) => channels.includes(id));
  if (notified.length === 0) return [];
  const deaf = notified.filter(({ confirmed }) => !confirmed);
  const says =
    deaf.length === 0
      ? `${notified.length === 1 ? 'The channel is' : `All ${notified.length} channels are`} confirmed.`
      : `${deaf.map(({ address }) => address).join(', ')} never confirmed and would not hear it.`;
  return [{ id: 'confirmed', passed: deaf.length === 0, says }];
};

const matchesCheck: Check = (_alarm, { series }) => {
  if (series === null) return [];
  return [
    {
      id: 'matches',
      passed: series > 0,
      says: series > 0 ? `Watches ${series} series.` : 'Watches nothing at present: no series meets its conditions.'
    }
  ];
};

const windowCheck: Check = ({ rule: { window } }) =>
  window.needs <= window.of
    ? []
    : [
        {
          id: 'window',
          passed: false,
          says: `It needs ${window.needs} of the last ${window.of} windows: no more can be needed than are looked at.`
        }
      ];

/** Data that come in batches of this length or more hide what is short. */
const longBatch = 10 * 60_000;

const batchesCheck: Check = (_alarm, { watched: { everyMs } }) =>
  everyMs < longBatch
    ? []
    : [
        {
          id: 'batches',
          passed: false,
          says: `Its metrics are pulled every ${peopleDuration(everyMs)} only. If it is raised and clears in between, one message is sent afterwards; none is sent if it cleared more than an hour ago.`
        }
      ];

const timingCheck: Check = ({ signal, rule }, { watched: { samplingMs, delayMs } }) => {
  const step = stepOf(signal);
  if (step < samplingMs)
    return [
      {
        id: 'timing',
        passed: false,
        says: `Windows of ${spokenDuration(step)} are shorter than the sampling of ${spokenDuration(samplingMs)}: most would be empty.`
      }
    ];
  const soonest = (times(rule.window.needs, step) + delayMs) as Duration;
  return [
    {
      id: 'timing',
      passed: true,
      says: `Reported every ${peopleDuration(samplingMs)}, at most ${peopleDuration(delayMs)} late: raised ${peopleDuration(soonest)} after it starts, at the earliest.`
    }
  ];
};

const thresholdCheck: Check = ({ rule: { condition } }, { watched, seen }) => {
  const share = watched.unit === '1' && seen !== null && isShare(seen) ? ([0, 1] as const) : undefined;
  const bounds = unit(watched.unit).bounds ?? share;
  const { threshold, is } = condition;
  if (bounds) {
    const [low, high] = bounds;
    const never = is === 'above' ? threshold >= high : threshold <= low;
    const always = is === 'above' ? threshold < low : threshold > high;
    if (never || always)
      return [
        {
          id: 'threshold',
          passed: false,
          says: `${share ? 'All day it was' : 'It lies'} between ${low} and ${quantityText(high, watched.unit)}, so it ${share ? 'would be' : 'is'} ${never ? 'never' : 'always'} ${is} ${limitText(threshold, watched.unit)}.`
        }
      ];
  }
  return [
    {
      id: 'threshold',
      passed: true,
      says: `The threshold is in ${unit(watched.unit).text || 'plain numbers'}, as what is watched.`
    }
  ];
};

const calmCheck: Check = (_alarm, { rehearsal }) => {
  if (rehearsal === null) return [];
  const count = rehearsal.periods.length;
  if (count > calmPerDay)
    return [
      {
        id: 'calm',
        passed: false,
        says: `It would have been raised ${count} times in the last day: people stop listening to such an alarm.`
      }
    ];
  return [
    {
      id: 'calm',
      passed: true,
      says:
        count === 0
          ? 'It would not have been raised in the last day.'
          : `It would have been raised ${count === 1 ? 'once' : `${count} times`} in the last day.`
    }
  ];
};
