import { autocompletion, type CompletionContext, type CompletionResult } from '@codemirror/autocomplete';
import { yaml } from '@codemirror/lang-yaml';
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language';
import { linter, lintGutter, type Diagnostic } from '@codemirror/lint';
import { EditorView } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import { basicSetup } from 'codemirror';
import { reductions } from '$lib/core/board';
import { readBoardFile } from '$lib/core/board/file';
import { severities } from '$lib/core/alarm';
import { statistics } from '$lib/core/series';
import { pictureNames } from '../../panel/picture-names';

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
 * An editor of a board's file: YAML (of which JSON is a part), with completion of keys and values, and everything that is wrong said at its line.
 *
 * @param metrics names that can be completed
 */
export function codeEditor(
  parent: HTMLElement,
  doc: string,
  { label, metrics, onChange }: { label: string; metrics: () => readonly string[]; onChange: (text: string) => void }
): EditorView {
  // In a tree of its own the editor's styles are adopted by it: the page's content security policy permits no sheets that scripts write into it.
  const root = parent.shadowRoot ?? parent.attachShadow({ mode: 'open' });
  return new EditorView({
    parent: root,
    root,
    doc,
    extensions: [
      basicSetup,
      yaml(),
      lintGutter(),
      linter(({ state }) =>
        diagnosticsOf(state.doc.toString(), (line) => state.doc.line(Math.min(line, state.doc.lines)))
      ),
      autocompletion({ override: [(context) => completions(context, metrics())] }),
      EditorView.contentAttributes.of({ 'aria-label': label, tabindex: '0' }),
      EditorView.updateListener.of((update) => {
        if (update.docChanged) onChange(update.state.doc.toString());
      }),
      theme,
      syntaxHighlighting(colours)
    ]
  });
}

function diagnosticsOf(text: string, lineAt: (line: number) => { from: number; to: number }): Diagnostic[] {
  const read = readBoardFile(text);
  if (read.kind === 'read') return [];
  return read.problems.map(({ line, path, message }) => {
    const { from, to } = lineAt(line ?? 1);
    return { from, to, severity: 'error', message: path === '' ? message : `${path}: ${message}` };
  });
}

function completions(context: CompletionContext, metrics: readonly string[]): CompletionResult | null {
  const line = context.state.doc.lineAt(context.pos);
  const before = line.text.slice(0, context.pos - line.from);
  const [, key] = /([A-Za-z]+):\s*["']?[\w.*-]*$/.exec(before) ?? [];
  const word = context.matchBefore(/[\w.*-]*/);
  if (!word || (word.from === word.to && !context.explicit)) return null;
  if (key !== undefined) {
    const known = values(metrics)[key];
    return known ? { from: word.from, options: known.map((one) => ({ label: one, type: 'constant' })) } : null;
  }
  return {
    from: word.from,
    options: Object.entries(keys).map(([one, detail]) => ({ label: one, detail, type: 'property', apply: `${one}: ` }))
  };
}

/** The theme's own colours, by day and by night. */
const colours = HighlightStyle.define([
  { tag: tags.propertyName, color: 'var(--deep)' },
  { tag: [tags.string, tags.content], color: 'var(--ink)' },
  { tag: [tags.number, tags.bool, tags.null, tags.keyword], color: 'var(--ok)' },
  { tag: [tags.punctuation, tags.separator, tags.squareBracket, tags.brace, tags.comment], color: 'var(--quiet)' }
]);

const theme = EditorView.theme({
  '&': { height: '100%', fontSize: '12.5px', backgroundColor: 'var(--surface)', color: 'var(--ink)' },
  '.cm-scroller': { fontFamily: 'var(--font-mono)' },
  '.cm-gutters': { backgroundColor: 'var(--sunk)', color: 'var(--quiet)', borderRight: '1px solid var(--line)' },
  '.cm-activeLine, .cm-activeLineGutter': { backgroundColor: 'color-mix(in srgb, var(--shallow) 60%, transparent)' },
  '.cm-cursor': { borderLeftColor: 'var(--ink)' },
  '&.cm-focused .cm-selectionBackground, .cm-selectionBackground': { backgroundColor: 'var(--shallow)' },
  '.cm-tooltip': { backgroundColor: 'var(--surface)', border: '1px solid var(--line-strong)', color: 'var(--ink)' },
  '.cm-tooltip-autocomplete ul li[aria-selected]': { backgroundColor: 'var(--deep)', color: 'var(--surface)' },
  '.cm-diagnostic-error': { borderLeft: '4px solid var(--major)' }
});
