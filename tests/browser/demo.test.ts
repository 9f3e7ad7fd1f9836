import { expect } from 'chai';
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { alarms } from '../../demo/alarms';
import { budgets } from '../../demo/budgets';
import { promises } from '../../demo/objectives';
import { until } from '../support/until';

interface Demo {
  readonly child: ChildProcess;
  said: string;
}

/** Starts `npm run demo` without npm, so that signals reach it as they do from a terminal. */
function demo(...flags: string[]): Demo {
  const child = spawn(process.execPath, ['scripts/demo.mjs', ...flags], { stdio: ['ignore', 'pipe', 'pipe'] });
  const started: Demo = { child, said: '' };
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (part: Buffer) => (started.said += part.toString()));
  return started;
}

/** Ports that one demo takes, from its own on. */
const portsOfADemo = 3;

/** A port free with those behind it, below those that the system gives to connections and to tests beside this one. */
async function freePorts(): Promise<number> {
  for (;;) {
    const first = 10_000 + Math.floor(Math.random() * 20_000);
    const all = Array.from({ length: portsOfADemo }, (_, i) => isFree(first + i));
    if ((await Promise.all(all)).every(Boolean)) return first;
  }
}

async function isFree(port: number): Promise<boolean> {
  const server = createServer();
  const free = await new Promise<boolean>((tell) => {
    server.once('error', () => tell(false)).listen(port, '127.0.0.1', () => tell(true));
  });
  server.close();
  return free;
}

async function ended({ child }: Demo): Promise<number | null> {
  if (child.exitCode === null) await once(child, 'exit');
  return child.exitCode;
}

/** How much there is of what people have made, as Nerea reads it by the API. */
async function workspaceAt(port: number): Promise<Record<string, number>> {
  const origin = `http://localhost:${port}`;
  const body = new URLSearchParams({ name: 'nerea', password: 'corallo-demo' });
  const signedIn = await fetch(`${origin}/sign-in`, { method: 'POST', headers: { origin }, body, redirect: 'manual' });
  const cookie = signedIn.headers.getSetCookie()[0]?.split(';')[0] ?? '';
  const counts = ['boards', 'alarms', 'signals', 'derived'].map(async (kind) => {
    const answer = await fetch(`${origin}/api/v1/${kind}`, { headers: { cookie } });
    return [kind, ((await answer.json()) as Record<string, unknown[]>)[kind]?.length ?? -1] as const;
  });
  return Object.fromEntries(await Promise.all(counts));
}

describe('npm run demo', () => {
  let folder: string;
  let port: number;

  before(async () => {
    folder = mkdtempSync(join(tmpdir(), 'bussola-demo-'));
    port = await freePorts();
  });
  after(() => rmSync(folder, { recursive: true, force: true }));

  it('serves its first page, stops cleanly on Ctrl+C, and starts again on the same data', async () => {
    const flags = [`--port=${port}`, `--data=${join(folder, 'data')}`, '--days=0', '--seed=3'];
    for (const round of ['first', 'second']) {
      const running = demo(...flags);
      await until(
        `the ${round} start`,
        () =>
          running.said.includes('Stop with Ctrl+C') ||
          (running.child.exitCode !== null && Promise.reject(new Error(running.said))),
        90_000
      );
      expect(running.said).to.contain(`http://localhost:${port}`).and.to.contain('corallo-demo');
      expect(await (await fetch(`http://127.0.0.1:${port}/sign-in`)).text()).to.contain('Sign in');
      expect((await fetch(`http://127.0.0.1:${port + 1}/mail`)).status).to.equal(200);
      expect(await workspaceAt(port), `${round} start`).to.deep.equal({
        boards: 8,
        // Each budget has one as well, and each promise that has levels.
        alarms:
          alarms.length + budgets(() => 1).length + promises(() => 1).filter(({ levels }) => levels.length > 0).length,
        signals: 3,
        derived: 1
      });

      const second = demo(`--port=${port}`, `--data=${join(folder, 'other')}`);
      expect(await ended(second)).to.equal(1);
      expect(second.said).to.contain(`Port ${port} is in use by another program`);
      const sameData = demo(`--port=${await freePorts()}`, `--data=${join(folder, 'data')}`);
      expect(await ended(sameData)).to.equal(1);
      expect(sameData.said).to.contain('in use by another Bussola').and.not.to.contain(' at ');
      const reset = demo(`--port=${await freePorts()}`, `--data=${join(folder, 'data')}`, '--reset');
      expect(await ended(reset)).to.equal(1);
      expect(reset.said).to.contain('Stop that one first');

      running.child.kill('SIGINT');
      expect(await ended(running), running.said).to.equal(0);
      expect(existsSync(join(folder, 'data', 'lock'))).to.equal(false);
    }
  }).timeout(180_000);

  it('says what is wrong with a flag or a folder', async () => {
    const wrong = async (...flags: string[]) => {
      const tried = demo(...flags);
      expect(await ended(tried)).to.equal(1);
      return tried.said;
    };
    expect(await wrong('--days=many')).to.contain('--days must be a whole number from 0 to 400, got many.');
    expect(await wrong('--prot=1')).to.contain('Flags: --port N, --data DIR');
    writeFileSync(join(folder, 'file'), '');
    expect(await wrong(`--port=${port}`, `--data=${join(folder, 'file', 'data')}`)).to.contain(
      'cannot be made (ENOTDIR)'
    );
    expect(await wrong(`--port=${port}`, `--data=${process.cwd()}`, '--reset')).to.contain(
      'does not look like a data folder of Bussola; it was left alone.'
    );
    expect(existsSync('package.json')).to.equal(true);
  }).timeout(180_000);

  it('a port that is taken by something else is named before anything is started', async () => {
    const taken = createServer().listen(port + 1, '127.0.0.1');
    await once(taken, 'listening');
    const tried = demo(`--port=${port}`, `--data=${join(folder, 'never')}`);
    expect(await ended(tried)).to.equal(1);
    expect(tried.said).to.contain(`Port ${port + 1} is in use`);
    expect(existsSync(join(folder, 'never'))).to.equal(false);
    taken.close();
  });
});
