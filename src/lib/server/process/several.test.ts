import { expect } from 'chai';
import { randomBytes } from 'node:crypto';
import { launchApp, startApp, type AppOptions, type RunningApp } from '../../../../tests/support/app';
import { stressMachine, type House } from '../../../../tests/support/bussola';
import { freshPostgres, hasPostgres } from '../../../../tests/support/database';
import { programOf } from '../../../../tests/support/program';
import { until } from '../../../../tests/support/until';

// Only a server is shared by several processes: npm test runs this file with one.
if (hasPostgres)
  describe('several processes on one database', function () {
    this.timeout(240_000);
    let web: RunningApp;
    const engines = new Map<string, RunningApp>();
    let common: AppOptions;

    const duties = () =>
      web.db.rows<{ name: string; holder: string; instance: string }>(
        'select name, holder, instance from duties join processes on processes.id = holder order by name'
      );
    const launched = async (instance: string, role: string) => {
      const { data: _, ...own } = common;
      return launchApp({ ...own, env: { ...own.env, BUSSOLA_INSTANCE: instance, BUSSOLA_ROLE: role } });
    };
    const mails = () => web.standIns.mailbox.mails.filter(({ to }) => to.includes('nerea.olmo@example.test'));

    before(async function () {
      this.timeout(240_000);
      const server = (await freshPostgres({ migrated: false })) ?? '';
      const env = { BUSSOLA_KEY: randomBytes(32).toString('base64') };
      web = await startApp({
        ...{ server, accounts: true },
        env: { ...env, BUSSOLA_ROLE: 'web', BUSSOLA_INSTANCE: 'front' }
      });
      common = { server, standIns: web.standIns, clock: web.clock, env };
      const both = ['night', 'noon'].map(async (name) => engines.set(name, await launched(name, 'engine')));
      await Promise.all(both);
    });
    after(async function () {
      this.timeout(90_000);
      for (const engine of engines.values()) await engine.stop();
      await web.stop();
    });

    it('share all work among the engines, every account pulled by one of them; what serves has none', async () => {
      await until('both engines work', async () => {
        const all = await duties();
        return all.length > 15 && new Set(all.map(({ instance }) => instance)).size === 2;
      });
      expect((await duties()).map(({ instance }) => instance)).not.to.include('front');
      await web.live(3);
    });

    it('have pages and the API where they serve, and only say how they are where they work', async () => {
      const person = await programOf(web, 'kaja');
      expect((await person('GET', '/accounts')).status).to.equal(200);
      const night = engines.get('night');
      expect((await fetch(`${night?.origin}/healthz`)).status).to.equal(200);
      const refused = await fetch(`${night?.origin}/api/v1/accounts`);
      expect([refused.status, ((await refused.json()) as { code: string }).code]).to.deep.equal([404, 'not-found']);
      // An engine that is well, and one that only serves, which makes no rounds.
      expect((await fetch(`${web.origin}/healthz`)).status).to.equal(200);
    });

    it('raise an alarm and send its message once, and whoever looks on at one that serves hears of it', async () => {
      const person = await programOf(web, 'nerea');
      stressMachine({ standIns: web.standIns, clock: web.clock } as House, 'booking-web-1', 97, 30);
      await web.live(8);
      await until('it is raised', async () => {
        const { body } = await person('GET', '/incidents');
        return (body as { incidents: unknown[] }).incidents.length > 0;
      });
      await until('the mail', () => mails().length > 0);
      expect(mails()).to.have.length(1);
    });

    it('lose one that is killed, and go on', async () => {
      const [one] = (await duties()).filter(({ name }) => name.startsWith('account '));
      const killed = engines.get(one?.instance ?? '');
      const other = one?.instance === 'night' ? 'noon' : 'night';
      killed?.process.kill('SIGKILL');
      await until(
        'the other one has all',
        async () => {
          const all = await duties();
          return all.length > 15 && all.every(({ instance }) => instance === other);
        },
        60_000
      );
      await web.live(3);
      expect(mails(), 'nothing is sent again').to.have.length(1);
      const { body } = await (await programOf(web, 'oda'))('GET', '/processes');
      const { processes } = body as { processes: { instance: string; lives: boolean; accounts: string[] }[] };
      expect(processes.map(({ instance, lives }) => [instance, lives]).sort()).to.deep.equal(
        [
          ['front', true],
          [other, true],
          [one?.instance, false]
        ].sort()
      );
      expect(processes.find(({ instance }) => instance === other)?.accounts).to.include('corallo-prod');
    });

    it('take one back that starts again, and share anew', async () => {
      const [gone] = [...engines].find(([, { process }]) => process.signalCode !== null) ?? [''];
      await engines.get(gone)?.stop();
      engines.set(gone, await launched(gone, 'engine'));
      await until(
        'both engines work',
        async () => new Set((await duties()).map(({ instance }) => instance)).size === 2
      );
      await web.live(2);
    });
  });
