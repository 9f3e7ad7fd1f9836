import { limitText, quantityText, unit } from '../../units';
import type { RehearsalAnswer } from '../rehearsal-answer';
import type { AlarmDefinition } from '../schema';
import { isShare, suggestCondition } from '../suggest';
import { failed, passed, withRule, type Check, type Fix, type PreflightFacts } from './check';
import { unitOfAlarm } from './watched-metrics';

/** Raised more often than this a day, over all its series, an alarm is soon ignored. */
const calmPerDay = 6;
/** Raised for so much of the time, it says how things usually are. */
const alwaysShare = 0.5;
/** Never raised over so many days, and nothing came near: it watches for what does not happen. */
const neverDays = 7;

/** Whether its thresholds can be reached at all, and are not always. */
export const thresholdCheck: Check = (alarm, facts) => {
  const seen = seenIn(facts.rehearsal);
  const code = unitOfAlarm(alarm, facts);
  const share = code === '1' && seen !== null && isShare(seen) ? ([0, 1] as const) : undefined;
  const bounds = unit(code).bounds ?? share;
  const oneSided = alarm.rule.levels.flatMap(({ condition }) =>
    condition.kind === 'threshold' && 'limit' in condition ? [condition] : []
  );
  if (oneSided.length === 0) return [];
  for (const { is, limit } of bounds ? oneSided : []) {
    const [low, high] = bounds as readonly [number, number];
    const never = is === 'above' ? limit >= high : limit <= low;
    const always = is === 'above' ? limit < low : limit > high;
    if (never || always)
      return failed(
        'threshold',
        `${share ? 'All the time it was' : 'It lies'} between ${low} and ${quantityText(high, code)}, so it ${share ? 'would be' : 'is'} ${never ? 'never' : 'always'} ${is} ${limitText(limit, code)}.`,
        suggested(alarm, code, facts)
      );
  }
  return passed('threshold', `The threshold is in ${unit(code).text || 'plain numbers'}, as what is watched.`);
};

/** Whether it would have been raised now and then, rather than always or never. */
export const calmCheck: Check = (alarm, facts) => {
  const { rehearsal } = facts;
  if (rehearsal === null || rehearsal.series.length === 0) return [];
  const { count, raised } = rehearsal.figures;
  const length = Math.max(1, rehearsal.to - rehearsal.from);
  const days = Math.max(1, Math.round(length / 86_400_000));
  const when = days === 1 ? 'in the last day' : `in the last ${days} days`;
  const share = raised / (length * rehearsal.series.length);
  if (share > alwaysShare)
    return failed(
      'calm',
      `It would have been raised ${Math.round(share * 100)} % of the time: that is how things usually are.`,
      proposed(alarm, rehearsal) ?? suggested(alarm, rehearsal.unit, facts)
    );
  if (count > calmPerDay * days)
    return failed(
      'calm',
      `It would have been raised ${count} times ${when}: people stop listening to such an alarm.`,
      proposed(alarm, rehearsal)
    );
  if (count === 0 && days >= neverDays && isFarFrom(alarm, facts))
    return failed(
      'calm',
      `It would never have been raised ${when}, and nothing came near.`,
      suggested(alarm, rehearsal.unit, facts)
    );
  return passed(
    'calm',
    count === 0
      ? `It would not have been raised ${when}.`
      : `It would have been raised ${count === 1 ? 'once' : `${count} times`} ${when}.`
  );
};

/** Whether all that was seen of an unbounded number lies below half of every threshold above it. */
function isFarFrom({ rule }: AlarmDefinition, { rehearsal }: PreflightFacts): boolean {
  const seen = seenIn(rehearsal);
  if (rehearsal === null || seen === null || unit(rehearsal.unit).bounds || isShare(seen) || seen.smallest < 0)
    return false;
  return rule.levels.every(
    ({ condition }) => condition.kind === 'threshold' && condition.is === 'above' && seen.largest < condition.limit / 2
  );
}

const seenIn = (rehearsal: RehearsalAnswer | null) => {
  if (rehearsal === null) return null;
  const { smallest, largest, isWhole } = rehearsal.seen;
  return smallest === null || largest === null ? null : { smallest, largest, isWhole };
};

/** A threshold that suits what was seen, in place of the only level. */
function suggested(alarm: AlarmDefinition, code: string, { rehearsal }: PreflightFacts): Fix | undefined {
  const [level] = alarm.rule.levels;
  const seen = seenIn(rehearsal);
  if (!level || alarm.rule.levels.length > 1 || seen === null) return undefined;
  const condition = suggestCondition(code, seen);
  return {
    says: `Use ${condition.is} ${limitText(condition.limit, code)}`,
    alarm: withRule(alarm, { levels: [{ ...level, condition }] })
  };
}

/** What the rehearsal proposes: a limit first, else a window. */
function proposed(alarm: AlarmDefinition, { proposals }: RehearsalAnswer): Fix | undefined {
  const best = proposals.find(({ what }) => what === 'limit') ?? proposals[0];
  return (
    best && {
      says: best.what === 'limit' ? 'Use the limit that suits' : 'Use the window that suits',
      alarm: { ...alarm, rule: best.rule }
    }
  );
}

/** Days that a season of the day is found in, and one of the week. */
const [daysForDay, daysForWeek] = [3, 14];

/** Whether its bands have learned from enough history. */
export const bandCheck: Check = (alarm, facts) => {
  const learned = facts.rehearsal?.seen.learned ?? null;
  if (learned === null) return [];
  const days = Math.floor(learned.days);
  if (days < daysForDay)
    return failed(
      'band',
      `Its bands have ${days === 0 ? 'less than a day' : `${days} ${days === 1 ? 'day' : 'days'}`} of history: they know no season before day ${daysForDay}, and none of the week before day ${daysForWeek}.`,
      suggested(alarm, unitOfAlarm(alarm, facts), facts)
    );
  const knows = {
    week: 'the hours of the week',
    day: 'the hours of the day',
    none: 'no season, since none stands out'
  }[learned.season];
  return passed('band', `Its bands learned from ${days} days, and know ${knows}.`);
};
