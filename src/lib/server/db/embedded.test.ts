import { expect } from 'chai';
import { connect, type Socket } from 'node:net';
import { join } from 'node:path';
import { once } from 'node:events';
import { socketName } from './folder';
import { openPool, type Database } from './pool';
import { withDatabase } from '../../../../tests/support/database';

/** A message of PostgreSQL's protocol: its letter, its length, its body. */
function message(letter: string, body: string): Buffer {
  const length = Buffer.alloc(4);
  length.writeInt32BE(Buffer.byteLength(body) + 4, 0);
  return Buffer.concat([Buffer.from(letter), length, Buffer.from(body)]);
}

/** The first message of a connection, which has no letter: version 3.0, user and database. */
const startup = (): Buffer => message('', '\0\x03\0\0user\0postgres\0database\0postgres\0\0');

describe('the embedded database', () => {
  const fixture = withDatabase({ migrated: false });

  /** A connection without a driver. */
  async function connected(): Promise<Socket> {
    const host = 'host' in fixture.connection ? fixture.connection.host : '';
    const socket = connect(join(host, socketName));
    await once(socket, 'connect');
    return socket;
  }

  it('keeps statements with parameters of many connections apart', async () => {
    const pools = Array.from({ length: 6 }, () => openPool(fixture.connection, 2));
    const ask = async (db: Database, n: number) => {
      const [row] = await db.rows<{ sum: number; text: string }>(
        'select $1::integer + $2::integer as sum, $3::text as text',
        [n, 1, `t${n}`]
      );
      expect(row).to.deep.equal({ sum: n + 1, text: `t${n}` });
      const [one] = await db.rows<{ text: string }>('select $1::text as text', [`u${n}`]);
      expect(one?.text).to.equal(`u${n}`);
    };
    await Promise.all(pools.flatMap((db, p) => Array.from({ length: 30 }, (_, i) => ask(db, p * 100 + i))));
    await Promise.all(pools.map((db) => db.close()));
  });

  it('lets transactions of several connections take turns without mixing', async () => {
    await fixture.db.rows('create table turns (who integer, step integer)');
    const pools = Array.from({ length: 4 }, () => openPool(fixture.connection, 1));
    await Promise.all(
      pools.map((db, who) =>
        db.transaction(async (within) => {
          for (let step = 0; step < 5; step++)
            await within.rows('insert into turns (who, step) values ($1, $2)', [who, step]);
          const seen = await within.rows<{ count: number }>('select count(*) as count from turns where who = $1', [
            who
          ]);
          expect(seen[0]?.count).to.equal(5);
        })
      )
    );
    await Promise.all(pools.map((db) => db.close()));
    const order = await fixture.db.rows<{ who: number }>('select who from turns');
    const runs = order.filter(({ who }, i) => i === 0 || who !== order[i - 1]?.who).length;
    expect(runs).to.equal(4);
  });

  it('rolls back and serves the others when a client vanishes within its transaction', async () => {
    await fixture.db.rows('create table vanished (n integer)');
    const socket = await connected();
    socket.write(
      Buffer.concat([startup(), message('Q', 'begin\0'), message('Q', 'insert into vanished values (1)\0')])
    );
    for (let answer = ''; !answer.includes('INSERT 0 1');) answer += String((await once(socket, 'data'))[0]);
    socket.destroy();
    const rows = await fixture.db.rows('select n from vanished');
    expect(rows).to.deep.equal([]);
  });

  it('serves others while a client has begun a statement and not ended it, and when it vanishes then', async () => {
    const socket = await connected();
    socket.write(startup());
    for (let answer = ''; !answer.endsWith('Z\0\0\0\x05I');) answer += String((await once(socket, 'data'))[0]);
    const parse = message('P', '\0select $1::integer as n\0\0\0');
    const bind = message('B', '\0\0\0\0\0\x01\0\0\0\x017\0\0');
    socket.write(Buffer.concat([parse, bind]));
    expect(await fixture.db.rows('select $1::text as text', ['meanwhile'])).to.deep.equal([{ text: 'meanwhile' }]);
    socket.write(Buffer.concat([message('D', 'P\0'), message('E', '\0\0\0\0\0'), message('S', '')]));
    let answer = '';
    while (!answer.endsWith('Z\0\0\0\x05I')) answer += String((await once(socket, 'data'))[0]);
    expect(answer).to.contain('SELECT 1');
    socket.write(Buffer.concat([parse, bind]));
    socket.destroy();
    expect(await fixture.db.rows('select $1::text as text', ['afterwards'])).to.deep.equal([{ text: 'afterwards' }]);
  });

  it('survives garbage on its socket', async () => {
    const socket = await connected();
    socket.write('GET / HTTP/1.1\r\n\r\n');
    socket.destroy();
    const [row] = await fixture.db.rows<{ one: number }>('select 1 as one');
    expect(row?.one).to.equal(1);
  });

  it('takes an error within a statement and serves the next', async () => {
    const failure = await fixture.db.rows('select 1 / $1::integer as n', [0]).catch((error: Error) => error);
    expect(failure).to.be.instanceOf(Error).with.property('message', 'division by zero');
    expect(await fixture.db.rows('select 2 as n')).to.deep.equal([{ n: 2 }]);
  });
});
