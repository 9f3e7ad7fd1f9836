import { expect } from 'chai';
import { statSync } from 'node:fs';
import { join } from 'node:path';
import { withFolder } from '../../../../tests/support/database';
import { configFrom } from './config';
import { secretBox } from './secrets';

describe('secrets at rest', () => {
  const fixture = withFolder();

  it('come back, differ each time, and their key file is the owner’s alone', () => {
    const box = secretBox(fixture.path);
    const [one, two] = [box.seal('s3cret'), box.seal('s3cret')];
    expect(one.equals(two)).to.equal(false);
    expect(one.includes('s3cret')).to.equal(false);
    expect(secretBox(fixture.path).open(one)).to.equal('s3cret');
    expect(statSync(join(fixture.path, 'key')).mode & 0o777).to.equal(0o600);
  });

  it('changed in any byte, or sealed with another key, do not open', () => {
    const box = secretBox(fixture.path);
    const sealed = box.seal('s3cret');
    for (let i = 0; i < sealed.length; i++) {
      const changed = Buffer.from(sealed);
      changed[i]! ^= 1;
      expect(() => box.open(changed), `byte ${i}`).to.throw();
    }
    expect(() => secretBox(fixture.path, Buffer.alloc(32, 1).toString('base64')).open(sealed)).to.throw();
    expect(() => secretBox(fixture.path, 'c2hvcnQ=')).to.throw('has 5 bytes, not 32');
  });
});

describe('the configuration', () => {
  it('has defaults, and names the variable that is not usable', () => {
    expect(configFrom({})).to.deep.include({ data: 'bussola-data', databaseUrl: null, historyDays: 14 });
    expect(configFrom({ ORIGIN: 'https://bussola.example.test/' }).origin).to.equal('https://bussola.example.test');
    expect(() => configFrom({ BUSSOLA_HISTORY_DAYS: 'many' })).to.throw('BUSSOLA_HISTORY_DAYS');
    expect(() => configFrom({ BUSSOLA_SMTP: 'http://mail' })).to.throw('BUSSOLA_SMTP');
  });
});
