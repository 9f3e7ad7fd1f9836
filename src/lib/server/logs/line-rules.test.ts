import { expect } from 'chai';
import { withHouse } from '../../../../tests/support/bussola';
import { lineRuleSchema } from '../../core/logs';
import { hour, minute, range, type Instant } from '../../core/time';
import { allDropped } from '../intake/ledger/collections';
import { keyByText, makeKey, type Key } from '../intake/receive/keys';
import { searchLines } from './ask';
import { addLineRule, lineRules, removeLineRule, rulesFor } from './line-rules';
import { keepReceived, readReceived } from './receive-lines';
import { proposeMasks, tryRule } from './try-rule';

describe('rules for lines, where they are stored', () => {
  const house = withHouse();
  let key: Key;
  before(async () => {
    const { db, clock } = house.bussola;
    const { text } = await db.transaction((within) =>
      makeKey(within, {
        ...{ name: 'quay-printers', scopes: ['logs'], createdBy: 'a test', createdAt: clock.now(), expiresAt: null },
        ...{ mostSeries: 10, mostBytesADay: 10_000_000 }
      })
    );
    key = (await keyByText(db, text, clock.now()))!;
  });
  const rule = (given: object) => lineRuleSchema.parse(given);
  async function send(...texts: string[]) {
    const at = house.clock.now();
    const body = Buffer.from(texts.map((msg) => JSON.stringify({ at, msg, 'service.name': 'prints' })).join('\n'));
    const received = await readReceived(house.bussola, key, { format: 'ndjson', body, isGzip: false });
    return keepReceived(house.bussola, key, received);
  }
  async function found(text: string): Promise<string[]> {
    const now = house.clock.now();
    const within = range((now - hour) as Instant, (now + minute) as Instant);
    let texts: string[] = [];
    for await (const { lines } of searchLines(house.bussola, {
      ...{ text, range: within, most: 50, step: minute, accounts: null }
    }))
      texts = lines.map((line) => line.text);
    return texts;
  }

  it('proposes masks for what is found in stored lines, with what would have been stored', async () => {
    await send('ticket 7 for oda@corallo.test', 'ticket 8 for ivo@corallo.test', 'printer is ready');
    const proposals = await proposeMasks(house.bussola, null);
    expect(proposals.map(({ kind, hits }) => [kind, hits])).to.deep.equal([['mail-address', 2]]);
    const [{ examples }] = proposals as [(typeof proposals)[number]];
    expect(examples.map(({ stored }) => stored)).to.have.members([
      'ticket 7 for ‹mail address›',
      'ticket 8 for ‹mail address›'
    ]);
    expect(await proposeMasks(house.bussola, [key.accountId + 1]), 'of lines that may not be read').to.deep.equal([]);
  });

  it('stores what is masked nowhere, counts it, and proposes it no more', async () => {
    await addLineRule(
      house.bussola,
      rule({ does: 'mask', name: 'Mail addresses', masked: { kind: 'mail-address' } }),
      'kaja'
    );
    await send('ticket 9 for nobody@secret.test', 'printer is idle');
    expect(await found('ticket and 9')).to.deep.equal(['ticket 9 for ‹mail address›']);
    const { db } = house.bussola;
    const secret = Buffer.from('nobody');
    const journalled = await db.rows('select 1 from log_journal where position($1::bytea in batch) > 0', [secret]);
    expect(journalled, 'what is journalled').to.deep.equal([]);
    const known = Buffer.from('mail address');
    expect(await db.rows('select 1 from log_journal where position($1::bytea in batch) > 0', [known])).to.have.length(
      1
    );
    const [stored] = await lineRules(house.bussola.db);
    expect([stored?.lines, stored?.lastAt]).to.deep.equal([1, house.clock.now()]);
    expect(await proposeMasks(house.bussola, null)).to.deep.equal([]);
  });

  it('leaves out what programs push, of one account or all, and says how much', async () => {
    const out = rule({ does: 'leave-out', name: 'Checks', account: key.accountId, search: 'answers' });
    const tried = await tryRule(house.bussola, rule({ ...out, search: 'printer' }), null);
    expect(tried.hits).to.equal(2);
    expect(tried.examples.map(({ stored }) => stored)).to.deep.equal([null, null]);
    const { id } = await addLineRule(house.bussola, out, 'kaja');
    const taken = await send('it answers its check', 'ticket 10 printed');
    expect([taken.accepted, taken.rejected]).to.deep.equal([1, 0]);
    expect(await found('answers')).to.deep.equal([]);
    const dropped = (await allDropped(house.bussola.db)).find(({ reason }) => reason.includes('rule'));
    expect(dropped?.count).to.equal(1);
    expect((await rulesFor(house.bussola.db, key.accountId + 1)).map((one) => one.id)).not.to.include(id);
    await removeLineRule(house.bussola, id);
    await send('it answers again');
    expect(await found('answers')).to.deep.equal(['it answers again']);
  });

  it('takes no line while a rule cannot be read: it would be stored unmasked', async () => {
    const { db } = house.bussola;
    await db.rows(`insert into line_rules (definition, created_at, created_by) values ('{"version": 99}', 0, 'x')`);
    let refused = '';
    await send('bearer abcdefgh12345').catch((error: unknown) => (refused = (error as { code: string }).code));
    expect(refused).to.equal('stored-unreadable');
    expect(await found('bearer')).to.deep.equal([]);
    await db.rows(`delete from line_rules where definition ->> 'version' = '99'`);
  });
});
