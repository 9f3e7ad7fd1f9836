import { duration, minute, peopleDuration } from '../time';
import { type Objective } from './objective';
import { periodName } from './periods';

/** A share in per cent, with as many digits as tell it from 100. @example shareText(0.99943) // '99.943 %' */
export function shareText(share: number): string {
  const digits = share >= 1 || share <= 0.9 ? 2 : Math.min(6, Math.ceil(-Math.log10(1 - share)));
  return `${Number((share * 100).toFixed(Math.max(0, digits - 1)))} %`;
}

/** What is promised, as a sentence. @example promiseWords(objective) // '99.9 % is to be good in every 30 days.' */
export const promiseWords = ({ targetPercent, period }: Pick<Objective, 'targetPercent' | 'period'>): string =>
  `${targetPercent} % is to be good in every ${periodName(period)}.`;

/** A span of minutes. @example minutesText(360) // '6 h' */
export const minutesText = (minutes: number): string => peopleDuration(duration(minutes * minute));

/** How fast a budget is used. @example rateText(14.44) // '14.4 ×' */
export const rateText = (rate: number): string => `${rate >= 100 ? Math.round(rate) : Number(rate.toFixed(1))} ×`;

/** What is left of a budget, in whole per cent; what is spent has none. @example leftText(0.412) // '41 %' */
export const leftText = (left: number): string =>
  `${left <= 0 ? 0 : left > 0 && left < 0.01 ? 1 : Math.round(left * 100)} %`;
