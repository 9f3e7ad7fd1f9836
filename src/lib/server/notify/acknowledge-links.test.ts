import { expect } from 'chai';
import fc from 'fast-check';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after as later, day, duration, instantFromText } from '../../core/time';
import { secretBox, type SecretBox } from '../base/secrets';
import { acknowledgeToken, linkGoodFor, messageOfToken } from './acknowledge-links';

const now = instantFromText('2026-11-28T03:10:00Z');

describe('links by which people acknowledge', () => {
  const folder = mkdtempSync(join(tmpdir(), 'bussola-links-'));
  let secrets: SecretBox;
  before(() => (secrets = secretBox(folder)));
  after(() => rmSync(folder, { recursive: true, force: true }));

  it('lead back to their message until they expire, and fit into a text message', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 2 ** 31 - 1 }), (id) => {
        const token = acknowledgeToken(secrets, id, now);
        expect(token).to.match(/^[\w-]{30}$/);
        expect(messageOfToken(secrets, token, now)).to.deep.equal({ kind: 'good', messageId: id });
        expect(messageOfToken(secrets, token, later(now, linkGoodFor))?.kind).to.equal('good');
        expect(messageOfToken(secrets, token, later(now, duration(linkGoodFor + day)))?.kind).to.equal('expired');
      })
    );
  });

  it('that are forged, changed in any bit, or signed for something else lead nowhere', () => {
    const token = acknowledgeToken(secrets, 7, now);
    const bytes = Buffer.from(token, 'base64url');
    for (let bit = 0; bit < bytes.length * 8; bit++) {
      const changed = Buffer.from(bytes);
      changed[bit >> 3] = (changed[bit >> 3] as number) ^ (1 << (bit & 7));
      expect(messageOfToken(secrets, changed.toString('base64url'), now), `bit ${bit}`).to.equal(null);
    }
    const other = { ...secrets, sign: (_purpose: string, data: Buffer) => secrets.sign('something else', data) };
    expect(messageOfToken(secrets, acknowledgeToken(other, 7, now), now)).to.equal(null);
    for (const text of ['', 'x', `${token}A`, token.slice(1), `${token.slice(0, -1)}=`, '../../incidents'])
      expect(messageOfToken(secrets, text, now), text).to.equal(null);
  });
});
