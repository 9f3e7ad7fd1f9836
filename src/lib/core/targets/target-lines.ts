import { jsonOrNull } from '../forms/json';
import { targetSchema, type Target } from './definition';

/** Pages as people write them, and what is wrong with some lines. */
export interface ReadTargetLines {
  readonly targets: readonly Target[];
  readonly problems: readonly { readonly line: number; readonly message: string }[];
}

/**
 * Reads pages that people write: a line for each, with its address, its name where it has one, and labels as `name=value`; a value with spaces stands in quotes. Empty lines and those after `#` are left out.
 *
 * @example readTargetLines('http://192.0.2.7:9000/metrics quote-1 site=perla').targets // [{ url: 'http://192.0.2.7:9000/metrics', name: 'quote-1', labels: { site: 'perla' } }]
 */
export function readTargetLines(text: string): ReadTargetLines {
  const targets: Target[] = [];
  const problems: { line: number; message: string }[] = [];
  text.split('\n').forEach((line, index) => {
    const words = line.match(/(?:[^\s"]|"(?:[^"\\]|\\.)*")+/g) ?? [];
    const [url = '', ...others] = words;
    if (url === '' || url.startsWith('#')) return;
    const names = others.filter((word) => !word.includes('='));
    const labels = Object.fromEntries(
      others
        .filter((word) => word.includes('='))
        .map((word) => {
          const place = word.indexOf('=');
          return [word.slice(0, place), unquoted(word.slice(place + 1))];
        })
    );
    const problem = (message: string): void => void problems.push({ line: index + 1, message });
    if (names.length > 1) return problem(`It has two names, ${names[0]} and ${names[1]}. Write labels as name=value.`);
    const read = targetSchema.safeParse({ url, ...(names[0] === undefined ? {} : { name: names[0] }), labels });
    if (read.success) targets.push(read.data);
    else problem(read.error.issues[0]?.message ?? 'It cannot be read.');
  });
  return { targets, problems };
}

/** Pages as lines that {@link readTargetLines} reads. @example targetLines([{ url: 'http://192.0.2.7/metrics', labels: {} }]) // 'http://192.0.2.7/metrics' */
export const targetLines = (targets: readonly Target[]): string =>
  targets
    .map(({ url, name, labels }) =>
      [
        url,
        ...(name === undefined ? [] : [name]),
        ...Object.entries(labels).map(([label, value]) => `${label}=${quoted(value)}`)
      ].join(' ')
    )
    .join('\n');

const quoted = (value: string): string => (/^[^\s"]+$/.test(value) ? value : JSON.stringify(value));

/** The value as it is; one that is not well quoted stands for itself. */
function unquoted(text: string): string {
  if (!text.startsWith('"')) return text;
  const value = jsonOrNull(text);
  return typeof value === 'string' ? value : text;
}
