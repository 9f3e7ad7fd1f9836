import { plainCell } from '$lib/core/forms/spreadsheet';
import { valuesOf, type QueryAnswer } from '$lib/core/series';
import { cellStart, exactMoment, type Duration } from '$lib/core/time';

/** An answer as a table for a spreadsheet: a column for each series, cells parted by tabs, gaps empty. */
export function tableOf(answer: QueryAnswer, zone: string): string {
  const { count } = answer;
  const series = answer.series.map((one) => ({ name: one.name, values: valuesOf(one) }));
  const head = ['time', ...series.map(({ name }) => plain(name))].join('\t');
  const rows = Array.from({ length: count }, (_, cell) =>
    [
      exactMoment(cellStart({ ...answer, step: answer.step as Duration }, cell), zone),
      ...series.map(({ values }) => (Number.isNaN(values[cell]) ? '' : values[cell]))
    ].join('\t')
  );
  return [head, ...rows].join('\n');
}

/** A name that a spreadsheet does not take for a formula or for several cells. */
const plain = (name: string): string => plainCell(name.replace(/[\t\r\n]/g, ' '));
