import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import { allAlarms } from '../alarms/alarms';
import { allBoards } from '../boards/boards';
import { knownVersion } from '../db/migrate';
import { examineAll } from '../doctor/examine-all';
import { openEmbedded } from './back-up';
import { restoreBackup } from './file/restore-backup';

/** Data as Bussolas of earlier versions left them: the demo's, after some minutes (scripts/keep-data.mjs). */
const kept = 'tests/upgrade/data';

describe('data of earlier versions', () => {
  for (const name of readdirSync(kept))
    it(`of migration ${parseInt(name)} are brought up to date: nothing is wrong with them, nothing is lost`, async () => {
      const folder = mkdtempSync(join(tmpdir(), 'bussola-earlier-'));
      const { db, close } = await openEmbedded(folder);
      try {
        const { about, migrated } = await restoreBackup(db, join(kept, name), () => undefined);
        expect(about.migration).to.equal(parseInt(name));
        expect(migrated).to.have.length.greaterThan(0);
        const [row] = await db.rows<{ newest: number }>('select max(number) as newest from migrations');
        expect(row?.newest).to.equal(knownVersion());
        const { findings, chunks, batches } = await examineAll(db);
        expect(findings).to.deep.equal([]);
        expect(chunks + batches).to.be.greaterThan(0);
        // What people made can be read as it is now.
        const stored = async (table: string): Promise<number> =>
          (await db.rows<{ count: number }>(`select count(*)::integer as count from ${table}`))[0]?.count ?? 0;
        expect(await allAlarms(db))
          .to.have.length(await stored('alarms'))
          .and.length.greaterThan(0);
        expect(await allBoards(db)).to.have.length(await stored('boards'));
      } finally {
        await close();
        rmSync(folder, { recursive: true });
      }
    }).timeout(240_000);
});
