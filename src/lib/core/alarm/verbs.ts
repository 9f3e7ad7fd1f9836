import { usualWidths, type Condition } from './condition';

/** What a condition says of what is watched, as the sentence of an alarm offers it. */
export const verbs = {
  above: 'is above',
  below: 'is below',
  outside: 'is outside',
  inside: 'is inside',
  'above-band': 'is above its anomaly band of',
  'below-band': 'is below its anomaly band of',
  'outside-band': 'is outside its anomaly band of',
  rise: 'rises by more than',
  fall: 'falls by more than',
  either: 'rises or falls by more than',
  absence: 'has had no sample for',
  'above-peers': 'is above its peers by',
  'below-peers': 'is below its peers by',
  'outside-peers': 'is unlike its peers by',
  'will-be-above': 'will be above',
  'will-be-below': 'will be below'
} as const;
export type Verb = keyof typeof verbs;

/** The verb of a condition on a signal; null of a combined one. @example verbOf({ kind: 'rank', is: 'above', by: 6 }) // 'above-peers' */
export function verbOf(condition: Condition): Verb | null {
  switch (condition.kind) {
    case 'threshold':
    case 'change':
      return condition.is;
    case 'band':
      return `${condition.is}-band`;
    case 'rank':
      return `${condition.is}-peers`;
    case 'forecast':
      return `will-be-${condition.is}`;
    case 'absence':
      return 'absence';
    case 'combined':
      return null;
    default:
      throw new RangeError(`verbOf: no kind "${String(condition satisfies never)}"`);
  }
}

/**
 * The condition that says something else of the same thing: numbers that still mean the same are taken over, others begin with what is usual.
 *
 * @example withVerb({ kind: 'threshold', is: 'above', limit: 80, clear: 70 }, 'below') // { kind: 'threshold', is: 'below', limit: 80 }
 */
export function withVerb(condition: Condition, verb: Verb): Condition {
  const limit = limitIn(condition);
  switch (verb) {
    case 'above':
    case 'below':
      return { kind: 'threshold', is: verb, limit };
    case 'outside':
    case 'inside': {
      const [low, high] =
        'low' in condition ? [condition.low, condition.high] : [Math.min(0, limit), Math.max(0, limit)];
      return { kind: 'threshold', is: verb, low, high };
    }
    case 'above-band':
    case 'below-band':
    case 'outside-band': {
      const widths = condition.kind === 'band' ? condition.widths : usualWidths;
      return { kind: 'band', is: sideOf(verb), widths };
    }
    case 'rise':
    case 'fall':
    case 'either':
      return condition.kind === 'change'
        ? { ...condition, is: verb }
        : { kind: 'change', is: verb, by: 50, as: 'percent', against: 'week', over: 'PT30M' };
    case 'absence':
      return { kind: 'absence', for: 'PT10M' };
    case 'above-peers':
    case 'below-peers':
    case 'outside-peers':
      return condition.kind === 'rank' ? { ...condition, is: sideOf(verb) } : { kind: 'rank', is: sideOf(verb), by: 6 };
    case 'will-be-above':
    case 'will-be-below': {
      const is = verb === 'will-be-above' ? 'above' : 'below';
      return condition.kind === 'forecast'
        ? { ...condition, is }
        : { kind: 'forecast', is, limit, within: 'P2D', from: 'P2D' };
    }
    default:
      throw new RangeError(`withVerb: no verb "${String(verb satisfies never)}"`);
  }
}

type Side = 'above' | 'below' | 'outside';
const sideOf = (verb: `${Side}-band` | `${Side}-peers`): Side => verb.split('-')[0] as Side;

/** A limit in the unit of the signal that a condition has; 0 for one that has none. */
function limitIn(condition: Condition): number {
  if ('limit' in condition) return condition.limit;
  return 'high' in condition ? condition.high : 0;
}
