import { join } from 'node:path';
import { withFolder } from '../../../../tests/support/database';
import { killOnAndOn } from '../../../../tests/support/killing';

/** How often it is killed: each start takes seconds. A campaign sets BUSSOLA_KILLS. */
const rounds = Number(process.env['BUSSOLA_KILLS'] ?? 5);

describe('kill -9 while lines arrive, are sealed and removed', () => {
  const fixture = withFolder();

  it('leaves every acknowledged line in place, once, and nothing in which the doctor finds something wrong, each time', () =>
    killOnAndOn('line-appender.ts', join(fixture.path, 'data'), rounds)).timeout(300_000);
});
