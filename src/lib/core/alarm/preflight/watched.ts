import { findingsOf, isFormula, isPick, plainPick, readRows, stepOf, type Signal } from '../../signal';
import { cannotGive, statisticName, unitOfStatistic, type Statistic } from '../../series';
import { duration, hour, peopleDuration } from '../../time';
import { conversion, unit } from '../../units';
import type { AlarmDefinition } from '../schema';
import { failed, passed, withRule, type Check, type Fix } from './check';
import { slowest, watchedMetrics } from './watched-metrics';

/** More series than people can tell apart: the alarm says more about the kind of thing than about one of them. */
const manySeries = 1000;

/** Whether it watches anything, and not everything. */
export const matchesCheck: Check = (alarm, { rehearsal }) => {
  if (rehearsal === null) return [];
  const count = rehearsal.series.length;
  if (count === 0) {
    const wider = alarm.signal && withoutConditions(alarm.signal);
    const fix: Fix | undefined = wider
      ? { says: 'Leave its conditions out', alarm: { ...alarm, signal: wider } }
      : alarm.signal && { says: 'Compose it on the bench', open: { page: 'bench' } };
    return failed('matches', 'Watches nothing at present: no series meets its conditions.', fix);
  }
  if (count > manySeries)
    return failed(
      'matches',
      `Watches ${count.toLocaleString('en')} series: trouble that they share would raise each of them.`,
      { says: 'Combine them on the bench', open: { page: 'bench' } }
    );
  return passed('matches', `Watches ${count} series.`);
};

/** A signal that picks all series of its metrics; undefined when it does already. */
function withoutConditions(signal: Signal): Signal | undefined {
  const isNarrow = readRows(signal).some(({ where }) => where.length > 0);
  return isNarrow
    ? { ...signal, rows: signal.rows.map((row) => (isFormula(row) ? row : { ...row, where: [] })) }
    : undefined;
}

/** Silence of so many pulls is no delay any more. */
const silentPulls = 5;

/** Whether what it watches still arrives. */
export const collectedCheck: Check = (alarm, facts) => {
  const { rehearsal, now } = facts;
  const newest = rehearsal?.seen.newest ?? null;
  if (rehearsal === null || newest === null) return [];
  const metrics = watchedMetrics(alarm, facts);
  const usual = Math.max(hour, slowest(metrics, 'delayMs') + silentPulls * slowest(metrics, 'everyMs'));
  const age = now - newest;
  if (age <= usual) return [];
  const isAbsence = alarm.rule.levels.some(({ condition }) => condition.kind === 'absence');
  if (isAbsence) return [];
  return failed(
    'collected',
    `The newest sample is ${peopleDuration(duration(age))} old: what it watches is collected no longer.`,
    { says: 'Look at the accounts', open: { page: 'accounts' } }
  );
};

/** Mistakes in what is watched: running totals as they are, statistics that a metric cannot give, cells finer than samples. */
export const signalCheck: Check = (alarm, facts) => {
  const { signal } = alarm;
  if (!signal) return [];
  const metricOf = (name: string) => facts.metrics.find((metric) => metric.name === name);
  return findingsOf(signal, metricOf, null)
    .filter((finding) => !finding.passed)
    .flatMap(({ text, mend }) =>
      failed('signal', text, mend ? { says: mend.text, alarm: { ...alarm, signal: mend.signal } } : undefined)
    );
};

const isTime = (code: string): boolean => conversion(code, 's').kind === 'unit';

/** From so many samples on, the average of a cell hides what one of them shows. */
const manySamples = 10;

/** Whether a peak would be seen: the average of many samples, or of many requests, hides the worst of them. */
export const peaksCheck: Check = (alarm, { metrics }) => {
  const { signal, rule } = alarm;
  const [row] = signal?.rows ?? [];
  if (!signal || !row || signal.rows.length !== 1 || !isPick(row) || row.statistic !== 'avg') return [];
  const isUpwards = rule.levels.some(
    ({ condition }) => condition.kind === 'threshold' && condition.is === 'above' && !row.combine
  );
  const metric = metrics.find(({ name }) => name === row.metric);
  if (!isUpwards || !metric) return [];
  const take = (statistic: Statistic): Fix => ({
    says: `Watch the ${statisticName(statistic)}`,
    alarm: { ...alarm, signal: { ...signal, rows: [{ ...row, statistic }] } }
  });
  const gives = (statistic: Statistic) => cannotGive(statistic, metric.shape, metric.kind) === null;
  if (metric.shape === 'summary' && isTime(metric.unit))
    return failed(
      'peaks',
      `It looks at the average of ${metric.title.toLowerCase()}: the slowest of many may be far worse.`,
      take('max')
    );
  const samples = Math.floor(stepOf(signal) / metric.samplingMs);
  if (samples >= manySamples && gives('max'))
    return failed(
      'peaks',
      `Each window is the average of ${samples} samples: a short peak would not be seen.`,
      take('max')
    );
  return [];
};

/** Whether what it watches can be read in the unit that its numbers were typed in. */
export const unitCheck: Check = (alarm, { metrics }) => {
  const { signal } = alarm;
  const pick = signal && plainPick(signal);
  const metric = metrics.find(({ name }) => name === pick?.metric);
  if (!signal?.unit || !pick || !metric) return [];
  const own = unitOfStatistic(pick.statistic, metric.unit);
  if (conversion(own, signal.unit).kind === 'unit') return [];
  const nameOf = (code: string) => unit(code).text || 'plain numbers';
  return failed(
    'unit',
    `Its numbers are in ${nameOf(signal.unit)}, and ${metric.title.toLowerCase()} is in ${nameOf(own)}.`,
    { says: `Read them as ${nameOf(own)}`, alarm: { ...alarm, signal: { ...signal, unit: own } } }
  );
};

/** Fewer cells than this share have values: the metric says something only when something happens. */
const sparseShare = 0.5;

/** Whether what is done where data are missing suits what it watches. */
export const missingCheck: Check = (alarm, { rehearsal }) => {
  if (rehearsal === null || rehearsal.seen.filled === null || rehearsal.seen.filled >= sparseShare) return [];
  const { whenMissing, levels } = alarm.rule;
  if (whenMissing === 'keep' || whenMissing === 'does not meet') return [];
  if (levels.every(({ condition }) => condition.kind === 'absence')) return [];
  const share = Math.round(rehearsal.seen.filled * 100);
  const consequence =
    whenMissing === 'meets' ? 'it would be raised by silence' : 'it would be indeterminate most of the time';
  return failed('missing', `Only ${share} % of windows have data: ${consequence}.`, {
    says: 'Count missing data as not meeting it',
    alarm: withRule(alarm, { whenMissing: 'does not meet' })
  });
};

/** Whether another alarm does the same already. */
export const duplicateCheck: Check = (alarm, { alarms, id }) => {
  const own = sameness(alarm);
  const other = alarms.find((one) => one.id !== id && one.definition.enabled && sameness(one.definition) === own);
  if (!other) return passed('duplicate', 'No other alarm watches the same.');
  return failed('duplicate', `“${other.definition.name}” watches the same already.`, {
    says: 'Open it',
    open: { page: 'alarm', id: other.id }
  });
};

/** What two alarms have in common that would be raised by the same trouble: what is watched, and how it is looked at. */
function sameness({ signal, combines, rule }: AlarmDefinition): string {
  const watched = signal
    ? [signal.rows, signal.show ?? null]
    : [[...(combines?.parts ?? [])].map((part) => JSON.stringify(part)).sort(), combines?.by];
  const looked = rule.levels.map(({ condition }) =>
    'is' in condition ? `${condition.kind} ${condition.is}` : condition.kind
  );
  return JSON.stringify([watched, [...new Set(looked)].sort()]);
}
