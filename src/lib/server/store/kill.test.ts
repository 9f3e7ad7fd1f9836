import { join } from 'node:path';
import { withFolder } from '../../../../tests/support/database';
import { killOnAndOn } from '../../../../tests/support/killing';

/** How often it is killed: each start takes seconds. A campaign sets BUSSOLA_KILLS. */
const rounds = Number(process.env['BUSSOLA_KILLS'] ?? 8);

describe('kill -9 during intake, sealing and rolling up', () => {
  const fixture = withFolder();

  it('leaves every acknowledged batch in place and a store in which the doctor finds nothing wrong, each time', () =>
    killOnAndOn('appender.ts', join(fixture.path, 'data'), rounds)).timeout(300_000);
});
