// A campaign of killed processes: node --import tsx tests/soak/kills.ts [--kills 500]. In CI a test runs its short form.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { parseArgs } from 'node:util';
import { killPoints, type KillPoint } from '../../src/lib/server/base/kill-points';
import { Changes } from '../../src/lib/server/base/changes';
import { serveStandIns } from '../../stand-ins/serve';
import { rule, threshold } from '../support/alarm';
import { launchApp, startApp, type RunningApp } from '../support/app';
import { programOf } from '../support/program';
import { machineNamed, processorAlarm, routeTo, stressMachine, type House } from '../support/bussola';
import { TestClock } from '../support/clock';
import { until } from '../support/until';

const machine = 'booking-web-2';
const address = 'killed@example.test';
/** How long a minute of the tests' clock takes. */
const minuteMs = 1500;

/** What a campaign came to. */
export interface KillResult {
  /** How often the process ended at each point. */
  readonly kills: Readonly<Record<KillPoint, number>>;
  /** Changes of state, each of which people are to hear of once. */
  readonly transitions: number;
  /** How many different messages each recipient got of each kind, by Message-ID and by webhook id. */
  readonly mails: Heard;
  readonly webhooks: Heard;
  /** Mails that arrived more than once, under the same Message-ID: mail programs show these once. */
  readonly repeated: number;
}
interface Heard {
  readonly raised: number;
  readonly cleared: number;
}

/**
 * Raises and clears an alarm again and again while the process is killed at each step in turn between the judgement and the message being noted as sent, and started anew on the same data.
 *
 * @param kills how often it is killed in all
 * @param progress is called whenever all is sent that was to be, with how often it was killed so far
 */
export async function killCampaign(
  kills: number,
  progress: (killed: number, transitions: number) => void = () => {}
): Promise<KillResult> {
  const data = mkdtempSync(join(tmpdir(), 'bussola-kills-'));
  const clock = new TestClock(join(data, 'clock'), '2026-05-04T14:00:00Z');
  const standIns = await serveStandIns({ port: 0, smtpPort: 0, seed: 1, clockFile: clock.file });
  const counts = Object.fromEntries(killPoints.map((point) => [point, 0])) as Record<KillPoint, number>;
  const subjects = (word: string): Set<string> =>
    new Set(
      standIns.mailbox.mails
        .filter(({ to, subject }) => to.includes(address) && subject.startsWith(word))
        .map(({ messageId }) => messageId)
    );
  const mails = (): Heard => ({ raised: subjects('MAJOR').size, cleared: subjects('CLEAR').size });
  const posts = (news: string): number =>
    new Set(standIns.desk.events.all.filter(({ type }) => type === `bussola.incident.${news}`).map(({ id }) => id))
      .size;
  const webhooks = (): Heard => ({ raised: posts('raised'), cleared: posts('cleared') });
  const total = ({ raised, cleared }: Heard): number => raised + cleared;
  /** What the one heard of that has heard least. */
  const heard = (): number => Math.min(total(mails()), total(webhooks()));
  const start = (point: KillPoint | null): Promise<RunningApp | null> =>
    // One that is killed while it starts, by what was left to do, never answers.
    launchApp({ data, standIns, clock, env: point === null ? {} : { BUSSOLA_KILL_AT: point } }).catch(
      (error: unknown) => {
        if (point === null || !String(error).includes('the application ended')) throw error;
        return null;
      }
    );
  let transitions = 0;
  try {
    const first = await startApp({ accounts: true, data, standIns, clock });
    const house = { bussola: { db: first.db, changes: new Changes() }, standIns, clock, data } as unknown as House;
    await first.live(3);
    const person = await programOf(first, 'nerea');
    const hook = await person('POST', '/channels', {
      ...{ kind: 'webhook', name: 'Killed', address: `${standIns.url}/desk/events` }
    });
    if (hook.status !== 201) throw new Error(`no webhook: ${JSON.stringify(hook.body)}`);
    const { id } = hook.body as { id: number };
    await first.db.rows('update channels set confirmed_at = $2 where id = $1', [id, clock.now()]);
    const route = await routeTo(house, address, {}, [id]);
    const whenAbove = rule(1, 1, { levels: [threshold('above', 80)] });
    await processorAlarm(house, machine, { name: 'Killed', route, rule: whenAbove });
    stressMachine(house, machine, 20, 3);
    await first.live(3);
    await first.stop(false);

    for (let killed = 0; killed < kills;) {
      const point = killPoints[killed % killPoints.length] as KillPoint;
      const app = await start(point);
      if (app !== null) {
        if (heard() === transitions) {
          // The next readings change the state, and stay so.
          standIns.levante.relieve(machineNamed(machine).id, clock.now());
          stressMachine(house, machine, transitions % 2 === 0 ? 95 : 20, 600);
          transitions++;
        }
        await minutesUntil(
          `the end at ${point}`,
          () => app.process.exitCode !== null || app.process.signalCode !== null
        );
        await app.stop(false);
      }
      counts[point]++;
      killed++;
      // Whatever is left is done by one that lives.
      if (killed % killPoints.length === 0 || killed === kills) {
        await settled();
        progress(killed, transitions);
      }
    }
    return {
      ...{ kills: counts, transitions, mails: mails(), webhooks: webhooks() },
      repeated: standIns.mailbox.mails.filter(({ to }) => to.includes(address)).length - total(mails())
    };
  } finally {
    await standIns.close();
    rmSync(data, { recursive: true, force: true });
  }

  /** Lets minutes pass until something is so: readings of the provider come late. */
  async function minutesUntil(what: string, look: () => boolean): Promise<void> {
    let nextMinute = 0;
    await until(
      what,
      () => {
        if (look()) return true;
        if (performance.now() >= nextMinute) {
          clock.pass(1);
          nextMinute = performance.now() + minuteMs;
        }
        return false;
      },
      90_000
    );
  }

  async function settled(): Promise<void> {
    const app = await start(null);
    if (app === null) throw new Error('it does not start without being killed');
    await minutesUntil('every message', () => heard() >= transitions);
    // Nothing more comes of it.
    await until('all is noted as sent', async () => {
      const [waiting] = await app.db.rows<{ count: number }>(
        `select (select count(*) from outbox where state = 'queued')::integer + (select count(*) from incident_events where handled_at is null)::integer as count`
      );
      return waiting?.count === 0;
    });
    await app.stop(false);
  }
}

if (import.meta.url === pathToFileURL(process.argv[1] ?? '').href) {
  const { values } = parseArgs({ options: { kills: { type: 'string', default: '500' } } });
  const kills = Number(values.kills);
  const result = await killCampaign(kills, (killed, transitions) =>
    console.error(`${killed} of ${kills} kills, ${transitions} changes of state`)
  );
  console.log(JSON.stringify(result, null, 2));
}
