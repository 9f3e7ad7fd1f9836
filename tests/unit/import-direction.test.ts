import { expect } from 'chai';
import { cruise, type ICruiseResult } from 'dependency-cruiser';
import extractTsConfig from 'dependency-cruiser/config-utl/extract-ts-config';
import { createRequire } from 'node:module';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';

const require = createRequire(`${process.cwd()}/package.json`);
const rules = require('./.dependency-cruiser.cjs') as { forbidden: object[]; options: object };

/** The names of the rules that a planted file breaks. */
async function broken(path: string, source: string): Promise<string[]> {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, source);
  try {
    const { output } = await cruise(
      [path],
      { ...rules.options, validate: true, ruleSet: { forbidden: rules.forbidden } } as never,
      (require('./.dependency-cruiser.resolve.cjs') as { resolve: never }).resolve,
      {
        tsConfig: extractTsConfig('tsconfig.json')
      }
    );
    return (output as ICruiseResult).summary.violations
      .filter(({ from }) => from === path)
      .map(({ rule }) => rule.name);
  } finally {
    rmSync(path);
  }
}

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
    }).timeout(60_000);
});
