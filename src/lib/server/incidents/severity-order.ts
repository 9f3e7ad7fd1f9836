import { severities } from '$lib/core/alarm';

/**
 * How grave a severity is, as SQL: more for a graver one.
 *
 * @param column that holds the severity
 * @example graverIsMore('severity') // "array_position(array['warning', 'minor', 'major', 'critical'], severity)"
 */
export const graverIsMore = (column: string): string =>
  `array_position(array[${severities.map((one) => `'${one}'`).join(', ')}], ${column})`;
