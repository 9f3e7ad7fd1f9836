import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { instantFromText, range, type Range } from '../../core/time';
import { eventMarksIn, insertMark, marksIn, removeMark } from './marks';

const at = (time: string) => instantFromText(`2026-05-04T${time}:00Z`);
const span = (from: string, to: string): Range => range(at(from), at(to));

describe('marks', () => {
  const fixture = withDatabase();
  const put = (text: string, from: string, more: { to?: string; board?: number; service?: string } = {}) =>
    insertMark(
      fixture.db,
      { text, ...more, from: `2026-05-04T${from}:00Z`, ...(more.to ? { to: `2026-05-04T${more.to}:00Z` } : {}) },
      { name: 'Nerea', source: 'person' },
      at('20:00')
    );
  const texts = async (within: Range, only: Parameters<typeof marksIn>[2] = {}) =>
    (await marksIn(fixture.db, within, only)).map(({ text }) => text);

  before(async () => {
    await fixture.db.rows(
      `insert into boards (title, content, created_at, created_by, changed_at, changed_by, reach)
       values ('Open', '{}', 1, 'x', 1, 'x', 'workspace'), ('Closed', '{}', 1, 'x', 1, 'x', 'private')`
    );
    await fixture.db.rows(
      `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from)
       values ('corallo-prod', 'levante', 'x', 'x', '', 0, 'x', 0)`
    );
    await fixture.db.rows(
      `insert into resources (account_id, provider_id, name, type, service, region, tags, first_seen_at, last_seen_at)
       values (1, 'a', 'fares-primary', 'database', 'databases', 'perla-1', '{}', 1, 1)`
    );
  });
  afterEach(() => fixture.db.rows('delete from marks'));

  it('are told as they were put', async () => {
    const mark = await put('fares 4.18 deployed', '11:20', { to: '11:25', service: 'databases' });
    expect(mark).to.deep.equal({
      id: mark?.id,
      from: at('11:20'),
      to: at('11:25'),
      text: 'fares 4.18 deployed',
      board: null,
      service: 'databases',
      source: 'person',
      by: 'Nerea'
    });
    expect(await marksIn(fixture.db, span('11:00', '12:00'))).to.deep.equal([mark]);
  });

  it('are seen where they reach into a range, newest first', async () => {
    await put('instant', '10:00');
    await put('long', '08:00', { to: '09:30' });
    expect(await texts(span('09:00', '11:00'))).to.deep.equal(['instant', 'long']);
    expect(await texts(span('09:30', '10:00')), 'a mark at the end of a range is not in it').to.deep.equal(['long']);
    expect(await texts(span('10:00', '11:00'))).to.deep.equal(['instant']);
    expect(await texts(span('09:31', '09:59'))).to.deep.equal([]);
  });

  it('are shown on their board, on boards of their service, or everywhere', async () => {
    await put('all', '10:01');
    await put('databases', '10:02', { service: 'databases' });
    await put('queues', '10:03', { service: 'queues' });
    await put('open', '10:04', { board: 1 });
    await put('closed', '10:05', { board: 2 });
    const hour = span('10:00', '11:00');
    expect(await texts(hour, { board: 1, services: ['databases'] })).to.deep.equal(['open', 'databases', 'all']);
    expect(await texts(hour, { board: 2, services: [] })).to.deep.equal(['closed', 'all']);
    expect(await texts(hour, { services: ['queues'] })).to.deep.equal(['queues', 'all']);
    expect(await texts(hour), 'the logbook tells nothing of private boards').to.deep.equal([
      'open',
      'queues',
      'databases',
      'all'
    ]);
  });

  it('go with their board, cannot be put on one that is gone, and are taken away once', async () => {
    expect(await put('nowhere', '10:00', { board: 99 })).to.equal(null);
    const mark = await put('once', '10:00');
    expect(await removeMark(fixture.db, mark?.id as number)).to.equal(true);
    expect(await removeMark(fixture.db, mark?.id as number)).to.equal(false);
  });

  it('a quote or a statement in their text is nothing but text', async () => {
    const text = `'); drop table marks; -- <img src=x onerror=alert(1)>`;
    await put(text, '10:00');
    expect(await texts(span('09:00', '11:00'))).to.deep.equal([text]);
  });

  it('of providers are the events of resources of the services that are asked for, and nobody’s to take away', async () => {
    await fixture.db.rows(
      `insert into events (account_id, resource_id, provider_id, at, kind, text, subject)
       values (1, 1, 'e1', $1, 'restart', 'Restarted for maintenance', '{}'), (1, 1, 'e2', $2, 'restart', 'Later', '{}')`,
      [at('10:00'), at('11:00')]
    );
    const [event, ...others] = await eventMarksIn(fixture.db, span('10:00', '11:00'), ['databases']);
    expect(others).to.deep.equal([]);
    expect(event).to.deep.equal({
      id: 0,
      from: at('10:00'),
      to: null,
      text: 'Restarted for maintenance',
      board: null,
      service: 'databases',
      source: 'provider',
      by: 'corallo-prod'
    });
    expect(await eventMarksIn(fixture.db, span('10:00', '11:00'), ['queues'])).to.deep.equal([]);
  });
});
