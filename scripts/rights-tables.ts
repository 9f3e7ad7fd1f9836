// Writes the tables of docs/guides/roles-and-rights.md anew from the routes and operations there are: `npm run rights`.
import { readFileSync, writeFileSync } from 'node:fs';
import { operations } from '../src/lib/server/api/operations';
import { accessRows } from '../src/lib/server/http/access';

const path = 'docs/guides/roles-and-rights.md';
const pages = Object.entries(accessRows)
  .sort(([one], [other]) => (one < other ? -1 : 1))
  .map(([route, { read, change, actions = {} }]) => {
    const more = Object.entries(actions).map(([name, role]) => `${name}: ${role}`);
    return `| \`${route}\` | ${read} | ${change} | ${more.join(', ')} |`;
  });
const calls = operations.map((one) => `| \`${one.method} ${one.path}\` | ${one.right} | ${one.scope ?? 'none'} |`);

/** Puts rows in place of those below a heading of a table. */
function replaced(text: string, heading: string, rows: readonly string[]): string {
  const lines = text.split('\n');
  const head = lines.findIndex((line) => line.startsWith(heading));
  if (head === -1) throw new Error(`${path} has no table that begins with "${heading}"`);
  const end = lines.findIndex((line, index) => index > head + 1 && !line.startsWith('|'));
  return [...lines.slice(0, head + 2), ...rows, ...lines.slice(end)].join('\n');
}

const written = readFileSync(path, 'utf8');
writeFileSync(path, replaced(replaced(written, '| Route ', pages), '| Operation ', calls));
