import type { SignalPicture } from './edit';

/** What is known of a signal's data when a picture is proposed. */
export interface SuggestFacts {
  /** Series it yields now. */
  readonly series: number;
  /** Whether its unit has a natural lowest and highest value. */
  readonly bounded: boolean;
  /** Resources among its series. */
  readonly resources: number;
  /** gauge, delta or cumulative. */
  readonly kind: string;
  /** Whether its series are told apart by a label of their own within one resource, such as a class of responses. */
  readonly parts: boolean;
}

/** Series that lines can still be told apart for. */
const fewLines = 12;

/**
 * The picture that suits data: one bounded number is a gauge, one other number a number, parts of a whole stacked bars, many resources a snapshot list, else
 * lines.
 *
 * @example suggestedPicture({ series: 1, bounded: true, resources: 1, kind: 'gauge', parts: false }) // 'gauge'
 */
export function suggestedPicture({ series, bounded, resources, kind, parts }: SuggestFacts): SignalPicture {
  if (series === 1) return bounded ? 'gauge' : 'number';
  if (parts && kind !== 'gauge') return series > 40 ? 'ring' : 'stacked';
  if (resources > fewLines) return 'snapshot';
  return series > fewLines * 2 ? 'heat' : 'lines';
}

/** Why a picture was proposed, as the end of a sentence. @example whySuggested('gauge') // 'one bounded number' */
export const whySuggested = (picture: SignalPicture): string => reasons[picture] ?? 'change over time';

const reasons: Readonly<Partial<Record<SignalPicture, string>>> = {
  gauge: 'one bounded number',
  number: 'one number',
  stacked: 'parts of a whole',
  ring: 'parts of a whole',
  snapshot: 'many resources now',
  heat: 'many series over time',
  lines: 'few series over time'
};
