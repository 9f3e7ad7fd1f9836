import { expect } from 'chai';
import { cruise, type ICruiseResult } from 'dependency-cruiser';
import extractTsConfig from 'dependency-cruiser/config-utl/extract-ts-config';
import { createRequire } from 'node:module';
import { mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';

const require = createRequire(`${process.cwd()}/package.json`);
interface Rules {
  readonly forbidden: object[];
  readonly options: object;
}
const rules = require('./.dependency-cruiser.cjs') as Rules;
const roomRules = require('./.dependency-cruiser.rooms.cjs') as Rules;

/** What breaks some rules while a file is planted, in the files and folders that are looked at. */
async function violations({ forbidden, options }: Rules, path: string, source: string, looked: readonly string[]) {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, source);
  try {
    const { output } = await cruise(
      [...looked],
      { ...options, validate: true, ruleSet: { forbidden } } as never,
      (require('./.dependency-cruiser.resolve.cjs') as { resolve: never }).resolve,
      {
        tsConfig: extractTsConfig('tsconfig.json')
      }
    );
    return (output as ICruiseResult).summary.violations;
  } finally {
    rmSync(path);
  }
}

/** The names of the rules that a planted file breaks. */
const broken = async (path: string, source: string): Promise<string[]> =>
  (await violations(rules, path, source, [path])).filter(({ from }) => from === path).map(({ rule }) => rule.name);

describe('imports go one way', () => {
  const planted = [
    [
      'core-is-pure',
      'src/lib/core/time/planted.ts',
      `import { readFileSync } from 'node:fs'; export const x = readFileSync;`
    ],
    [
      'core-is-pure',
      'src/lib/core/time/planted.ts',
      `import { openPool } from '../../server/db/pool'; export const x = openPool;`
    ],
    [
      'ui-not-server',
      'src/lib/ui/time/planted.ts',
      `import { openPool } from '$server/db/pool'; export const x = openPool;`
    ],
    [
      'server-not-ui',
      'src/lib/server/db/planted.ts',
      `import { shownRange } from '$lib/ui/time/shown'; export const x = shownRange;`
    ],
    [
      'no-import-of-stand-ins',
      'src/lib/server/intake/planted.ts',
      `import { machines } from '../../../../stand-ins/levante/world'; export const x = machines;`
    ],
    [
      'stand-ins-alone',
      'stand-ins/planted.ts',
      `import { instant } from '../src/lib/core/time'; export const x = instant;`
    ]
  ] as const;
  for (const [rule, path, source] of planted)
    it(`${path} that breaks ${rule} is found`, async () => {
      expect(await broken(path, source)).to.include(rule);
    }).timeout(180_000);

  it('a room of the server that imports a later one is found', async () => {
    const found = await violations(
      roomRules,
      'src/lib/server/store/planted.ts',
      `import type { Alarm } from '../alarms/alarms'; export type X = Alarm;`,
      ['src/lib/server']
    );
    expect(found.map(({ rule }) => rule.name)).to.include('no-cycles-of-rooms');
    expect(found.map(({ from }) => from)).to.include('src/lib/server/store');
  }).timeout(300_000);

  it('no file of the server lies outside a room', () => {
    const outside = readdirSync('src/lib/server', { withFileTypes: true }).filter((entry) => !entry.isDirectory());
    expect(outside.map(({ name }) => name)).to.deep.equal([]);
  });
});
