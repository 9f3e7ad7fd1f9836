import type { CompletionResult } from '@codemirror/autocomplete';
import { reductions } from '$lib/core/board';
import { readBoardFile } from '$lib/core/board/file';
import { severities } from '$lib/core/alarm';
import { statistics } from '$lib/core/series';
import { pictureNames } from '../../panel/picture-names';
import { keysAndValues, type CodeLanguage } from '../../../forms/code/code-editor';

/** Keys that a board's file may have, with what they are. */
const keys: Readonly<Record<string, string>> = {
  title: 'of the board, a panel, picker or section',
  about: 'one sentence on what the board is for',
  service: 'the folder it lies in, or what a list is of',
  step: 'length of cells: PT1M, PT1H, P1D or auto',
  zone: 'an IANA time zone',
  pickers: 'choices for the whole board',
  sections: 'headings that fold',
  panels: 'pictures, tables and texts',
  id: 'small letters, digits and -',
  section: 'id of the section it lies in',
  place: 'x, y, w and h on twelve columns',
  ignores: 'names of pickers it does not follow',
  picture: 'what it is drawn as',
  signal: 'version, rows, step',
  rows: 'of a signal, or how many are shown',
  metric: 'name of a metric, or a pattern with *',
  where: 'conditions on labels',
  label: 'name of a label',
  is: 'values of a label',
  isNot: 'values that it must not have',
  matches: 'an expression',
  matchesNot: 'an expression that must not be found',
  picker: 'name of a picker',
  statistic: 'how samples become one value',
  combine: 'how series become one: statistic and by',
  formula: 'arithmetic over rows',
  show: 'names of rows, or how a column is shown',
  limit: 'the highest or lowest few',
  unit: 'UCUM code',
  digits: 'after the point',
  axis: 'from, to, log',
  limits: 'labelled lines: value, severity, text',
  legend: 'rows and order',
  earlier: 'compared with, such as P7D',
  reduce: 'how a series becomes one figure',
  scale: 'from and to of a gauge',
  warning: 'limit on a gauge',
  danger: 'limit on a gauge',
  worse: 'above or below',
  columns: 'of a snapshot list',
  sort: 'column and direction',
  text: 'CommonMark',
  minutes: 'of silence',
  usual: 'what a picker chooses at first',
  several: 'whether several can be chosen',
  folded: 'whether a section is folded at first'
};

/** Values that some keys can have. */
const values = (metrics: readonly string[]): Readonly<Record<string, readonly string[]>> => ({
  picture: Object.keys(pictureNames),
  statistic: statistics,
  reduce: reductions,
  severity: severities,
  worse: ['above', 'below'],
  direction: ['highest', 'lowest'],
  order: ['highest', 'lowest', 'name'],
  metric: metrics,
  kind: ['board'],
  label: ['account', 'provider', 'region', 'service', 'type', 'resource', 'group']
});

/**
 * Files of boards, with completion of keys and values, and everything that is wrong said at its line.
 *
 * @param metrics names that can be completed
 */
export const boardLanguage = (metrics: () => readonly string[]): CodeLanguage => ({
  problemsIn: (text) => {
    const read = readBoardFile(text);
    return read.kind === 'read' ? [] : read.problems;
  },
  complete: (context): CompletionResult | null => keysAndValues(context, keys, values(metrics()))
});
