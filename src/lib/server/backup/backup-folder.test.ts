import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import { withFolder } from '../../../../tests/support/database';
import { refusalOf } from '../../../../tests/support/refusal';
import { instant } from '../../core/time';
import { BackupFolder, backupName } from './backup-folder';

describe('the folder of backups', () => {
  const fixture = withFolder();

  it('has and removes what is named as a backup is, and nothing elsewhere', async () => {
    const folder = new BackupFolder(join(fixture.path, 'backups'));
    await folder.make();
    const name = backupName(instant(0));
    expect(name).to.equal('bussola-1970-01-01T00-00-00Z.tar.gz');
    writeFileSync(folder.fileOf(name), '');
    writeFileSync(join(fixture.path, 'key'), 'precious');
    writeFileSync(folder.fileOf('notes'), 'of somebody');
    expect([folder.has(name), folder.has('../key'), folder.has('notes'), folder.has(null)]).to.deep.equal([
      ...[true, false, false, false]
    ]);
    for (const one of [name, '../key', 'notes']) await folder.remove(one);
    expect([existsSync(folder.fileOf(name)), existsSync(join(fixture.path, 'key'))]).to.deep.equal([false, true]);
    mkdirSync(folder.workOf(7));
    mkdirSync(folder.fileOf('.work-of-somebody'));
    await folder.removeAllWork();
    expect([existsSync(folder.workOf(7)), existsSync(folder.fileOf('.work-of-somebody'))]).to.deep.equal([false, true]);
    expect(existsSync(folder.fileOf('notes'))).to.equal(true);
  });

  it('lies within the data folder, or not', () => {
    const within = (path: string, data: string): boolean => new BackupFolder(path).isWithin(data);
    expect(within('bussola-data/backups', 'bussola-data')).to.equal(true);
    expect(within('/var/lib/bussola', '/var/lib/bussola')).to.equal(true);
    expect(within('/var/lib/bussola-backups', '/var/lib/bussola')).to.equal(false);
    expect(within('/var/backups/bussola', '/var/lib/bussola')).to.equal(false);
  });

  it('is refused where it is none', async () => {
    const path = join(fixture.path, 'file');
    writeFileSync(path, '');
    expect((await refusalOf(new BackupFolder(path).make()))?.code).to.equal('data-folder');
  });
});
