import { Refusal } from '$lib/core/problem/problem';
import { expect } from 'chai';
import { Disk, isFullDisk, refuseFullDisk } from './disk';

describe('the disk of the data folder', () => {
  it('is low below what is stated, and until there is a tenth more, so that it does not go back and forth', () => {
    let free = 0;
    const disk = new Disk('/data', 100, () => free);
    const seen = [150, 100, 99, 100, 109, 111, 100, 99].map((bytes) => {
      free = bytes;
      return disk.state()?.isLow;
    });
    expect(seen).to.deep.equal([false, false, true, true, true, false, false, true]);
  });

  it('refuses samples with what is free and what is needed, and sealing only when there is hardly any room', () => {
    let free = 80_000_000;
    const disk = new Disk('/data', 100_000_000, () => free);
    expect(() => disk.refuseWhenLow())
      .to.throw(Refusal, 'its disk has 80 MB free, less than 100 MB.')
      .with.property('status', 503);
    expect(disk.maySeal()).to.equal(true);
    free = 49_000_000;
    expect(disk.maySeal()).to.equal(false);
    free = 200_000_000;
    expect(() => disk.refuseWhenLow()).not.to.throw();
  });

  it('is never low where the database is elsewhere', () => {
    const disk = new Disk(null, 100, () => 0);
    expect(disk.state()).to.equal(null);
    expect(() => disk.refuseWhenLow()).not.to.throw();
    expect(disk.maySeal()).to.equal(true);
  });

  it('needs more for a start where the database is still to be made', () => {
    const free = () => 60_000_000;
    expect(() => refuseFullDisk('/data', true, free)).to.throw(
      Refusal,
      'has 60 MB free; Bussola needs 128 MB to start'
    );
    expect(() => refuseFullDisk('/data', false, free)).not.to.throw();
  });

  it('is known to be full from errors of Node.js, of PostgreSQL, and by their words alone', () => {
    const withCode = (code: string) => Object.assign(new Error('x'), { code });
    expect(['ENOSPC', 'EDQUOT', '53100', 'ENOENT'].map((code) => isFullDisk(withCode(code)))).to.deep.equal([
      true,
      true,
      true,
      false
    ]);
    expect(isFullDisk(new Error('could not extend file "base/5/16387": No space left on device'))).to.equal(true);
    expect(isFullDisk('No space left on device')).to.equal(false);
  });
});
