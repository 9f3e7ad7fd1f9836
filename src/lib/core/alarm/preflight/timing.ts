import { duration, durationFromText, peopleDuration, textFromDuration, times, type Duration } from '../../time';
import { mostWindowCells, stepOfAlarm, type AlarmDefinition } from '../schema';
import { failed, passed, withRule, type Check } from './check';
import { slowest, watchedMetrics } from './watched-metrics';

export const windowCheck: Check = (alarm) => {
  const { needs, of } = alarm.rule.window;
  if (needs <= of) return [];
  return failed('window', `It needs ${needs} of the last ${of} windows: no more can be needed than are looked at.`, {
    says: `Look at the last ${needs}`,
    alarm: withRule(alarm, { window: { needs, of: needs } })
  });
};

/** Whether its windows are as long as data are late: shorter ones judge what is over by then. */
export const delayCheck: Check = (alarm, facts) => {
  const delay = slowest(watchedMetrics(alarm, facts), 'delayMs');
  const step = stepOfAlarm(alarm);
  const { needs, of } = alarm.rule.window;
  const length = times(of, step);
  // An absence looks back for as long as it lasts.
  const silence = alarm.rule.levels.reduce(
    (most, { condition }) => Math.max(most, condition.kind === 'absence' ? durationFromText(condition.for) : 0),
    0
  );
  if (Math.max(length, silence) >= delay) return [];
  const cells = Math.min(mostWindowCells, Math.ceil(delay / step));
  return failed(
    'delay',
    `It looks at ${peopleDuration(length)}, and data are up to ${peopleDuration(delay)} late: what is raised may be over. At least ${peopleDuration(times(cells, step))} are sensible.`,
    {
      says: `Look at ${peopleDuration(times(cells, step))}`,
      alarm: withRule(alarm, { window: { needs: Math.max(1, Math.round((needs / of) * cells)), of: cells } })
    }
  );
};

/** Data that come in batches of this length or more hide what is short. */
const longBatch = 10 * 60_000;

export const batchesCheck: Check = (alarm, facts) => {
  const every = slowest(watchedMetrics(alarm, facts), 'everyMs');
  if (every < longBatch) return [];
  return failed(
    'batches',
    `Its metrics are pulled every ${peopleDuration(every)} only. If it is raised and clears in between, one message is sent afterwards; none is sent if it cleared more than an hour ago.`,
    { says: 'Change how often', open: { page: 'accounts' } }
  );
};

export const timingCheck: Check = (alarm, facts) => {
  const metrics = watchedMetrics(alarm, facts);
  if (metrics.length === 0) return [];
  const sampling = slowest(metrics, 'samplingMs');
  const step = stepOfAlarm(alarm);
  // Of an alarm on a signal, that is one of the mistakes of the signal.
  if (step < sampling && alarm.signal) return [];
  if (step < sampling)
    return failed(
      'timing',
      `Windows of ${peopleDuration(step)} are shorter than the sampling of ${peopleDuration(sampling)}: most would be empty.`,
      { says: `Use windows of ${peopleDuration(sampling)}`, alarm: withStep(alarm, sampling) }
    );
  const delay = slowest(metrics, 'delayMs');
  const soonest = duration(times(alarm.rule.window.needs, step) + delay);
  return passed(
    'timing',
    `Reported every ${peopleDuration(sampling)}, at most ${peopleDuration(delay)} late: raised ${peopleDuration(soonest)} after it starts, at the earliest.`
  );
};

const withStep = (alarm: AlarmDefinition, step: Duration): AlarmDefinition => ({
  ...alarm,
  combines: alarm.combines && { ...alarm.combines, step: textFromDuration(step) }
});
