import { stringify } from 'csv-stringify/sync';
import { summaryColumns, summaryRows, type Summary } from '$lib/core/summary';

/**
 * The numbers of a summary as CSV (RFC 4180), with a heading. What would be a formula in programs that open such files is a text: names are people's own.
 *
 * @example summaryCsv(summary).split('\r\n')[0] // 'part,what,unit,value,before'
 */
export const summaryCsv = (summary: Summary): string =>
  stringify([[...summaryColumns], ...summaryRows(summary)], { record_delimiter: '\r\n', escape_formulas: true });
