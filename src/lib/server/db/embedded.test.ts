import { expect } from 'chai';
import { connect } from 'node:net';
import { join } from 'node:path';
import { once } from 'node:events';
import { socketName } from './folder';
import { openPool, type Database } from './pool';
import { withDatabase } from '../../../../tests/support/database';

describe('the embedded database', () => {
  const held = withDatabase({ migrated: false });

  it('keeps statements with parameters of many connections apart', async () => {
    const pools = Array.from({ length: 6 }, () => openPool(held.connection, 2));
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
    await held.db.rows('create table turns (who integer, step integer)');
    const pools = Array.from({ length: 4 }, () => openPool(held.connection, 1));
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
    const order = await held.db.rows<{ who: number }>('select who from turns');
    const runs = order.filter(({ who }, i) => i === 0 || who !== order[i - 1]?.who).length;
    expect(runs).to.equal(4);
  });

  it('rolls back and serves the others when a client vanishes within its transaction', async () => {
    await held.db.rows('create table vanished (n integer)');
    const host = 'host' in held.connection ? held.connection.host : '';
    const socket = connect(join(host, socketName));
    await once(socket, 'connect');
    const startup = Buffer.from('user\0postgres\0database\0postgres\0\0');
    const head = Buffer.alloc(8);
    head.writeInt32BE(startup.length + 8, 0);
    head.writeInt32BE(196608, 4);
    const query = (text: string) => {
      const body = Buffer.from(`${text}\0`);
      const length = Buffer.alloc(4);
      length.writeInt32BE(body.length + 4, 0);
      return Buffer.concat([Buffer.from('Q'), length, body]);
    };
    socket.write(Buffer.concat([head, startup, query('begin'), query('insert into vanished values (1)')]));
    for (let answer = ''; !answer.includes('INSERT 0 1');) answer += String((await once(socket, 'data'))[0]);
    socket.destroy();
    const rows = await held.db.rows('select n from vanished');
    expect(rows).to.deep.equal([]);
  });

  it('survives garbage on its socket', async () => {
    const host = 'host' in held.connection ? held.connection.host : '';
    const socket = connect(join(host, socketName));
    await once(socket, 'connect');
    socket.write('GET / HTTP/1.1\r\n\r\n');
    socket.destroy();
    const [row] = await held.db.rows<{ one: number }>('select 1 as one');
    expect(row?.one).to.equal(1);
  });

  it('takes an error within a statement and serves the next', async () => {
    const failure = await held.db.rows('select 1 / $1::integer as n', [0]).catch((error: Error) => error);
    expect(failure).to.be.instanceOf(Error).with.property('message', 'division by zero');
    expect(await held.db.rows('select 2 as n')).to.deep.equal([{ n: 2 }]);
  });
});
