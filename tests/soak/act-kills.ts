// A campaign of killed processes that act: node --import tsx tests/soak/act-kills.ts [--kills 200]. In CI a test runs its short form.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { parseArgs } from 'node:util';
import { actPoints } from '../../src/lib/server/base/kill-points';
import { Changes } from '../../src/lib/server/base/changes';
import { usualLimits, type RunState } from '../../src/lib/core/response';
import { serveStandIns } from '../../stand-ins/serve';
import { rule, threshold } from '../support/alarm';
import { launchApp, startApp, type RunningApp } from '../support/app';
import { machineNamed, processorAlarm, stressMachine, type House } from '../support/bussola';
import { TestClock } from '../support/clock';
import { programOf } from '../support/program';
import { until } from '../support/until';

const machine = 'booking-web-2';
/** How long a minute of the tests' clock takes. */
const minuteMs = 1200;

/** What a campaign came to. */
export interface ActKillResult {
  /** How often the process ended at each point. */
  readonly kills: Readonly<Record<(typeof actPoints)[number], number>>;
  /** What Bussola says of each run that is over, beside how often its provider did it. */
  readonly runs: readonly { readonly state: RunState; readonly done: number }[];
  /** What the provider did that Bussola knows nothing of. */
  readonly unknown: number;
  /** Requests that the provider got a second time. */
  readonly repeated: number;
}

/**
 * Lets an alarm restart a machine again and again while the process is killed at each step in turn between that being decided and its answer being noted, and started anew on the same data.
 *
 * @param kills how often it is killed in all
 */
export async function actKillCampaign(
  kills: number,
  progress: (killed: number) => void = () => {}
): Promise<ActKillResult> {
  const data = mkdtempSync(join(tmpdir(), 'bussola-kills-'));
  const clock = new TestClock(join(data, 'clock'), '2026-05-04T14:00:00Z');
  const standIns = await serveStandIns({ port: 0, smtpPort: 0, seed: 1, clockFile: clock.file });
  const counts = Object.fromEntries(actPoints.map((point) => [point, 0])) as Record<(typeof actPoints)[number], number>;
  const { id } = machineNamed(machine);
  const start = (point: string | null): Promise<RunningApp | null> =>
    // One that is killed while it starts, by what was left to do, never answers.
    launchApp({ data, standIns, clock, env: point === null ? {} : { BUSSOLA_KILL_AT: point } }).catch(
      (error: unknown) => {
        if (point === null || !String(error).includes('the application ended')) throw error;
        return null;
      }
    );
  try {
    const first = await startApp({ accounts: true, data, standIns, clock });
    const house = { bussola: { db: first.db, changes: new Changes() }, standIns, clock, data } as unknown as House;
    await first.live(3);
    const levels = { levels: [threshold('above', 80)] };
    const alarm = await processorAlarm(house, machine, { name: 'Killed', rule: rule(1, 1, levels) });
    const person = await programOf(first, 'kaja');
    const made = await person('POST', '/responses', {
      ...{ name: 'Killed', alarmId: alarm.id, from: 'major', heldMinutes: 0, action: { kind: 'restart' } },
      limits: { ...usualLimits, mostPerHour: 60, restMinutes: 1, failuresToStop: 20 }
    });
    if (made.status !== 201) throw new Error(`no response: ${JSON.stringify(made.body)}`);
    stressMachine(house, machine, 20, 3);
    await first.live(3);
    await first.stop(false);
    for (let killed = 0; killed < kills;) {
      const point = actPoints[killed % actPoints.length] as (typeof actPoints)[number];
      // Its restart ends the stress, and so the alarm.
      stressMachine(house, machine, 95, 600);
      const app = await start(point);
      if (app !== null) {
        await minutesUntil(
          `the end at ${point}`,
          () => app.process.exitCode !== null || app.process.signalCode !== null
        );
        await app.stop(false);
      }
      counts[point]++;
      killed++;
      await settled();
      progress(killed);
    }
    const last = await start(null);
    if (last === null) throw new Error('it does not start without being killed');
    const runs = await last.db.rows<{ key: string; state: RunState }>(
      'select key, state from response_runs order by id'
    );
    await last.stop(false);
    const doneBy = (key: string): number => standIns.levante.acts.filter((act) => act.key === key).length;
    return {
      kills: counts,
      runs: runs.map(({ key, state }) => ({ state, done: doneBy(key) })),
      unknown: standIns.levante.acts.filter(({ key }) => !runs.some((run) => run.key === key)).length,
      repeated: standIns.levante.repeatedActs
    };
  } finally {
    await standIns.close();
    rmSync(data, { recursive: true, force: true });
  }

  async function minutesUntil(what: string, look: () => boolean | Promise<boolean>): Promise<void> {
    let nextMinute = 0;
    await until(
      what,
      async () => {
        if (await look()) return true;
        if (performance.now() >= nextMinute) {
          clock.pass(1);
          nextMinute = performance.now() + minuteMs;
        }
        return false;
      },
      120_000
    );
  }

  /** One that lives brings what is left to its end: the machine is restarted once, and all is clear. */
  async function settled(): Promise<void> {
    const app = await start(null);
    if (app === null) throw new Error('it does not start without being killed');
    await minutesUntil('everything over', async () => {
      const [left] = await app.db.rows<{ count: number }>(
        `select ((select count(*) from response_runs where state in ('held', 'sending', 'going')) + (select count(*) from incidents where closed_at is null))::integer as count`
      );
      const stressed = standIns.levante.stresses.some(
        (stress) => stress.resource === id && stress.value === 95 && stress.until > clock.now()
      );
      return left?.count === 0 && !stressed;
    });
    await app.stop(false);
  }
}

if (import.meta.url === pathToFileURL(process.argv[1] ?? '').href) {
  const { values } = parseArgs({ options: { kills: { type: 'string', default: '200' } } });
  const kills = Number(values.kills);
  console.log(
    JSON.stringify(await actKillCampaign(kills, (killed) => console.error(`${killed} of ${kills}`)), null, 2)
  );
}
