import { stringify } from 'csv-stringify/sync';
import { plainCell } from '$lib/core/forms/spreadsheet';
import { standardLabels, type Worked } from '$lib/core/signal';
import { cellStart, textFromInstant } from '$lib/core/time';

/**
 * A result as CSV (RFC 4180): a row for each cell of each series, first the time, the signal's row and the unit, then the labels, last the value. A
 * gap has no value. Texts that a spreadsheet would take for a formula are escaped, since names come from elsewhere.
 *
 * @example frameCsv(worked) // 'time,row,unit,account,…,value\r\n2026-05-04T14:00:00.000Z,a,%,corallo-prod,…'
 */
export function frameCsv({ grid, rows }: Worked & { kind: 'worked' }): string {
  const times = Array.from({ length: grid.count }, (_, cell) => textFromInstant(cellStart(grid, cell)));
  const labels = labelNames(rows.flatMap(({ columns }) => columns.flatMap((column) => Object.keys(column.labels))));
  const parts = rows.flatMap(({ name, unit, columns }) =>
    columns.map((column) => {
      const who = [name, unit, ...labels.map((label) => column.labels[label] ?? '')].map(plainCell);
      const written = times.map((time, cell) => {
        const value = column.values[cell] as number;
        return [time, ...who, Number.isNaN(value) ? '' : value];
      });
      return stringify(written, form);
    })
  );
  return stringify([['time', 'row', 'unit', ...labels.map(plainCell), 'value']], form) + parts.join('');
}

/** Standard labels in their order, then others by name. */
function labelNames(all: readonly string[]): string[] {
  const names = new Set(all);
  const standard = standardLabels.filter((label) => names.has(label));
  return [...standard, ...[...names].filter((name) => !standard.some((label) => label === name)).sort()];
}

/** Cells with any kind of line break are quoted. */
const form = { record_delimiter: 'windows', quoted_match: /[\r\n]/ } as const;
