import { spawn } from 'node:child_process';
import { once } from 'node:events';

/** Runs `npm run bussola -- …` against a Bussola, as Nerea. @returns its exit code and all that it said */
export async function runShell(origin: string, ...flags: string[]): Promise<{ code: number; said: string }> {
  const child = spawn(process.execPath, ['scripts/bussola.mjs', ...flags], {
    env: { ...process.env, BUSSOLA_URL: origin, BUSSOLA_NAME: 'nerea', BUSSOLA_PASSWORD: 'corallo-demo' }
  });
  let said = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (part: Buffer) => (said += part.toString()));
  const [code] = (await once(child, 'close')) as [number];
  return { code, said };
}
