import { stringify } from 'csv-stringify/sync';
import type { Frame } from '$lib/core/series';
import { cellStart, textFromInstant } from '$lib/core/time';
import type { FrameSeries } from './frame-json';

/**
 * A frame as CSV (RFC 4180), a row for each cell of each series: time, account, region, resource, value. A gap has no value. Texts that a spreadsheet would take for a
 * formula are escaped, since names come from elsewhere.
 *
 * @example frameCsv(frame, series) // 'time,account,region,resource,value\r\n2026-05-04T14:00:00.000Z,corallo-prod,…'
 */
export function frameCsv({ grid, columns }: Frame, series: readonly FrameSeries[]): string {
  const times = Array.from({ length: grid.count }, (_, cell) => textFromInstant(cellStart(grid, cell)));
  const parts = columns.map(({ values }, index) => {
    const { account = '', region = '', resource = '' } = series[index] ?? {};
    const rows = times.map((time, cell) => {
      const value = values[cell] as number;
      return [time, account, region, resource, Number.isNaN(value) ? '' : value];
    });
    return stringify(rows, written);
  });
  return stringify([['time', 'account', 'region', 'resource', 'value']], written) + parts.join('');
}

const written = { record_delimiter: 'windows', escape_formulas: true } as const;
