import { expect } from 'chai';
import { alarm } from '../../../../tests/support/alarm';
import { withDatabase } from '../../../../tests/support/database';
import { storeStorm } from '../../../../tests/support/incidents';
import { responseSchema, usualLimits } from '../../core/response';
import { after, before as earlier, instant, minute, second, times, type Instant } from '../../core/time';
import { insertAlarm } from '../alarms/alarms';
import { setAcknowledged } from '../incidents/incidents';
import { insertPerson } from '../people/people';
import { insertResponse, stopResponse, type StoredResponse } from './responses';
import { listRuns } from './runs';
import type { Actor } from './send-run';
import { Looks, takeUp } from './take-up';

describe('taking responses up', () => {
  const at = withDatabase();
  let now: Instant = instant(1_777_900_000_000);
  const actor = () =>
    ({
      ...{ db: at.db, clock: { now: () => now }, changes: { tell: () => undefined } },
      log: {
        error: ({ err }: { err: unknown }) => {
          throw err;
        }
      }
    }) as unknown as Actor;

  /** A response of an alarm that has raised so many, for half an hour, and which are about no single resource. */
  async function inStorm(name: string, many: number): Promise<StoredResponse> {
    const { id } = await insertAlarm(at.db, { ...alarm, name }, 'Kaja', now);
    await storeStorm(at.db, id, many, earlier(now, times(30, minute)), ['major', 'minor']);
    const response = responseSchema.parse({
      ...{ name: `Restart by ${name}`, alarmId: id, from: 'major', heldMinutes: 5 },
      ...{ action: { kind: 'restart' }, limits: usualLimits }
    });
    const kaja = await insertPerson(at.db, {
      ...{ name: name.toLowerCase(), displayName: 'Kaja', role: 'administrator', passwordHash: '', zone: 'UTC' },
      createdAt: now
    });
    return insertResponse(at.db, response, { at: now, by: 'Kaja', personId: kaja.id });
  }
  const runsOf = ({ id }: StoredResponse) => listRuns(at.db, { responseId: id }, 500);

  it('looks at fifty incidents at a time, and at each again only after a while', async () => {
    const response = await inStorm('Storm', 240);
    const looks = new Looks();
    const counts: number[] = [];
    for (let look = 0; look < 6; look++) {
      await takeUp(actor(), looks);
      counts.push((await runsOf(response)).length);
    }
    // Every other one is minor, with which it does nothing.
    expect(counts).to.deep.equal([25, 50, 75, 100, 120, 120]);
    const runs = await runsOf(response);
    expect(new Set(runs.map(({ state, says }) => `${state}: ${says}`))).to.deep.equal(
      new Set(['dropped: It is about no single resource that there is.'])
    );
    expect(new Set(runs.map(({ incidentId }) => incidentId)).size).to.equal(120);
    now = after(now, times(10, second));
    await takeUp(actor(), looks);
    expect((await runsOf(response)).length, 'what was dropped stays so').to.equal(120);
    await stopResponse(at.db, response.id, now, 'Enough.');
  }).timeout(180_000);

  it('leaves out what somebody has acknowledged, and all once it has stopped', async () => {
    const response = await inStorm('Few', 8);
    const ids = await at.db.rows<{ id: number }>(
      `select id from incidents where alarm_id = $1 and severity = 'major' order by id`,
      [response.response.alarmId]
    );
    await setAcknowledged(at.db, ids[0]?.id ?? 0, { at: now, by: 'Kaja' });
    await takeUp(actor(), new Looks());
    expect((await runsOf(response)).map(({ incidentId }) => incidentId).sort()).to.deep.equal(
      ids.slice(1).map(({ id }) => id)
    );
    const other = await inStorm('Others', 4);
    await stopResponse(at.db, other.id, now, 'Enough.');
    await takeUp(actor(), new Looks());
    expect(await runsOf(other)).to.deep.equal([]);
  });

  it('stops a response of somebody who may act no more, once, and says who', async () => {
    const response = await inStorm('Gone', 60);
    await at.db.rows('update people set disabled_at = $2 where id = $1', [response.personId, now]);
    await takeUp(actor(), new Looks());
    const [row] = await at.db.rows<{ why: string }>('select stopped_why as why from responses where id = $1', [
      response.id
    ]);
    expect(row?.why).to.match(/^Kaja may not act on machine-\d+ any more\.$|^Kaja may not act on it any more\.$/);
    expect(await runsOf(response)).to.deep.equal([]);
  });
});

describe('looks', () => {
  it('are due when nothing is noted, when it is time, and when the clock was set back', () => {
    const looks = new Looks();
    const now = instant(1_777_900_000_000);
    expect(looks.isDue('a', now)).to.equal(true);
    looks.note('a', after(now, times(10, second)));
    expect(looks.isDue('a', now)).to.equal(false);
    expect(looks.isDue('b', now), 'another').to.equal(true);
    expect(looks.isDue('a', after(now, times(10, second)))).to.equal(true);
    expect(looks.isDue('a', earlier(now, times(60, minute))), 'an hour earlier than it was').to.equal(true);
    looks.forgetOthers(new Set(['b']));
    expect(looks.isDue('a', now), 'forgotten').to.equal(true);
  });
});
