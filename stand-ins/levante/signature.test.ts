import { expect } from 'chai';
import { createHash } from 'node:crypto';
import { createSigner, httpbis } from 'http-message-signatures';
import { verify, type SignedRequest } from './signature';

const now = Date.parse('2026-05-04T14:00:00Z');
const body = Buffer.from('{"series":[]}');
const digestOf = (bytes: Buffer) => `sha-256=:${createHash('sha256').update(bytes).digest('base64')}:`;

/** A request signed as an honest client does, with anything changed. */
async function signed({
  secret = 'demo-only-2f9c61d07be84a35',
  created = now,
  fields = ['@method', '@target-uri', 'content-digest']
} = {}): Promise<SignedRequest> {
  const message = {
    method: 'POST',
    url: 'http://127.0.0.1:4301/levante/v1/points',
    headers: { 'content-digest': digestOf(body) }
  };
  const { headers } = await httpbis.signMessage(
    {
      key: { ...createSigner(secret, 'hmac-sha256'), id: 'LEVK-CORALLO-PROD' },
      fields,
      params: ['created', 'keyid', 'alg'],
      paramValues: { created: new Date(created) }
    },
    message
  );
  const lower = Object.fromEntries(Object.entries(headers).map(([name, value]) => [name.toLowerCase(), value]));
  return { ...message, headers: lower, body };
}

describe('the signatures Levante takes', () => {
  const kindOf = async (request: SignedRequest) => (await verify(request, now)).kind;

  it('are those of its own keys over this very request', async () => {
    const verdict = await verify(await signed(), now);
    expect(verdict.kind === 'accepted' && verdict.credential.account).to.equal('corallo-prod');
    expect(await kindOf(await signed({ secret: 'guess' }))).to.equal('refused');
  });

  it('do not carry over to another method, address or body', async () => {
    const request = await signed();
    expect(await kindOf({ ...request, method: 'GET' })).to.equal('refused');
    expect(await kindOf({ ...request, url: `${request.url}?x=1` })).to.equal('refused');
    expect(await kindOf({ ...request, body: Buffer.from('{"series":[1]}') })).to.equal('refused');
    const other = Buffer.from('{}');
    expect(
      await kindOf({ ...request, body: other, headers: { ...request.headers, 'content-digest': digestOf(other) } })
    ).to.equal('refused');
  });

  it('must cover method, address and body', async () => {
    for (const fields of [['@method', '@target-uri'], ['@target-uri', 'content-digest'], []])
      expect(await kindOf(await signed({ fields })), fields.join()).to.equal('refused');
  });

  it('hold for five minutes either way of its clock', async () => {
    expect(await kindOf(await signed({ created: now - 299_000 }))).to.equal('accepted');
    expect(await kindOf(await signed({ created: now + 299_000 }))).to.equal('accepted');
    expect(await verify(await signed({ created: now - 3_600_000 }), now)).to.deep.equal({
      kind: 'clock',
      created: now - 3_600_000
    });
    expect(await kindOf(await signed({ created: now + 3_600_000 }))).to.equal('clock');
  });

  it('missing, cut or garbled are refused with a reason, and never crash it', async () => {
    const request = await signed();
    for (const headers of [
      {},
      { signature: 'x' },
      { ...request.headers, signature: 'sig=:AAAA:' },
      { ...request.headers, 'signature-input': '(((' }
    ]) {
      const verdict = await verify(
        { ...request, headers: { ...headers, 'content-digest': digestOf(body) } as SignedRequest['headers'] },
        now
      );
      expect(verdict.kind).to.equal('refused');
    }
  });
});
