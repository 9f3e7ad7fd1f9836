import { stringify } from 'csv-stringify/sync';
import { summaryColumns, summaryRows, type Summary } from '$lib/core/summary';

/** What begins a formula in programs that open such files: names are people's own. */
const opensFormula = /^[=+\-@\t\r]/;
const harmless = (value: string | number): string | number =>
  typeof value === 'string' && opensFormula.test(value) ? `'${value}` : value;

/**
 * The numbers of a summary as CSV (RFC 4180), with a heading.
 *
 * @example summaryCsv(summary).split('\r\n')[0] // 'part,what,unit,value,before'
 */
export const summaryCsv = (summary: Summary): string =>
  stringify([[...summaryColumns], ...summaryRows(summary).map((row) => row.map(harmless))], {
    record_delimiter: '\r\n'
  });
