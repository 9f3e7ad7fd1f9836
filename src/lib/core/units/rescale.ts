import { conversion } from './arithmetic';
import { unit } from './unit';

/**
 * What choosing a unit does to the numbers, in words, with one of them as an example; null when it leaves them as they are.
 *
 * @param value one that is shown at present
 * @example rescaling('1', '%', 20.96) // 'Shown in % the numbers are 100 times as large: 20.96 becomes 2,096 %.'
 */
export function rescaling(from: string, to: string, value: number | null): string | null {
  const converted = conversion(from, to);
  if (converted.kind === 'refused' || (converted.scale === 1 && converted.offset === 0)) return null;
  const { scale, offset } = converted;
  const number = (figure: number) => figure.toLocaleString('en', { maximumSignificantDigits: 6 });
  const text = unit(to).text || 'plain numbers';
  const how =
    offset !== 0
      ? 'are converted'
      : scale > 1
        ? `are ${number(scale)} times as large`
        : `are divided by ${number(1 / scale)}`;
  const example =
    value === null
      ? ''
      : `: ${number(value)} becomes ${number(value * scale + offset)}${unit(to).text === '' ? '' : ` ${unit(to).text}`}`;
  return `Shown in ${text} the numbers ${how}${example}.`;
}
