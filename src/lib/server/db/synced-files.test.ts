import { expect } from 'chai';
import { PGlite } from '@electric-sql/pglite';
import { cpSync } from 'node:fs';
import { join } from 'node:path';
import { withFolder } from '../../../../tests/support/database';
import { emptyDatabase } from '../base/built';
import { startEmbedded } from './embedded';
import { openFolder } from './folder';
import { openPool } from './pool';
import { SyncedFiles, syncedParameters } from './synced-files';

describe('the files of the embedded database', () => {
  const fixture = withFolder();

  it('are synced to the disk before a commit is confirmed, and not for what only reads', async () => {
    const folder = join(fixture.path, 'database');
    cpSync(emptyDatabase(), folder, { recursive: true });
    let synced = 0;
    const db = await PGlite.create({
      fs: new SyncedFiles(folder, () => synced++),
      startParams: [...PGlite.defaultStartParams.filter((flag) => flag !== '-F'), ...syncedParameters]
    });
    const syncsOf = async (statement: string): Promise<number> => {
      const before = synced;
      await db.query(statement);
      return synced - before;
    };
    await db.query('create table t (n integer)');
    for (let n = 0; n < 20; n++) expect(await syncsOf(`insert into t values (${n})`), `row ${n}`).to.be.at.least(1);
    expect(await syncsOf('select count(*) from t')).to.equal(0);
    expect(await syncsOf('checkpoint'), 'files of tables and the log').to.be.above(2);
    await db.close();
  }).timeout(180_000);

  it('are so in the application, which says it is', async () => {
    const folder = openFolder(join(fixture.path, 'data'), 1);
    const embedded = await startEmbedded(folder);
    const db = openPool(embedded.connection, 1);
    expect(await db.rows('show fsync')).to.deep.equal([{ fsync: 'on' }]);
    expect(await db.rows('show synchronous_commit')).to.deep.equal([{ synchronous_commit: 'on' }]);
    await db.close();
    await embedded.close();
    folder.release();
  }).timeout(180_000);
});
