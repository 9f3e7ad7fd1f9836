import { autocompletion, type CompletionContext, type CompletionResult } from '@codemirror/autocomplete';
import { yaml } from '@codemirror/lang-yaml';
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language';
import { linter, lintGutter, type Diagnostic } from '@codemirror/lint';
import { EditorView } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import { basicSetup } from 'codemirror';
import type { FileProblem } from '$lib/core/forms/file';

/** What an editor knows of the files that are written in it. */
export interface CodeLanguage {
  /** Everything that is wrong with a text, with its line. */
  readonly problemsIn: (text: string) => readonly FileProblem[];
  readonly complete: (context: CompletionContext) => CompletionResult | null;
}

/**
 * An editor of files in YAML (of which JSON is a part), with completion, and everything that is wrong said at its line.
 */
export function codeEditor(
  parent: HTMLElement,
  doc: string,
  { label, language, onChange }: { label: string; language: CodeLanguage; onChange: (text: string) => void }
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
      EditorView.lineWrapping,
      lintGutter(),
      linter(({ state }) =>
        language.problemsIn(state.doc.toString()).map(({ line, path, message }): Diagnostic => {
          const { from, to } = state.doc.line(Math.min(line ?? 1, state.doc.lines));
          return { from, to, severity: 'error', message: path === '' ? message : `${path}: ${message}` };
        })
      ),
      autocompletion({ override: [language.complete] }),
      EditorView.contentAttributes.of({ 'aria-label': label, tabindex: '0' }),
      EditorView.updateListener.of((update) => {
        if (update.docChanged) onChange(update.state.doc.toString());
      }),
      theme,
      syntaxHighlighting(colours)
    ]
  });
}

/**
 * Completion of keys with what they are, and behind a key of its values where these are known.
 *
 * @example keysAndValues(context, { unit: 'UCUM code' }, { kind: ['gauge', 'delta'] })
 */
export function keysAndValues(
  context: CompletionContext,
  keys: Readonly<Record<string, string>>,
  values: Readonly<Record<string, readonly string[]>>
): CompletionResult | null {
  const line = context.state.doc.lineAt(context.pos);
  const before = line.text.slice(0, context.pos - line.from);
  const [, key] = /([A-Za-z]+):\s*["']?[\w.*-]*$/.exec(before) ?? [];
  const word = context.matchBefore(/[\w.*-]*/);
  if (!word || (word.from === word.to && !context.explicit)) return null;
  if (key !== undefined) {
    const known = values[key];
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
