// Started on another port, the stand-ins have other addresses: what the demo's workspace says of them is brought up to date.
import type { Check } from '../src/lib/core/reachability';
import type { Instant } from '../src/lib/core/time';
import type { SecretBox } from '../src/lib/server/base/secrets';
import type { Database } from '../src/lib/server/db/pool';
import { allChannels, changeAddress, secretOfChannel } from '../src/lib/server/notify/channels';
import { allChecks, replaceCheck } from '../src/lib/server/reachability/checks';
import type { Front } from '../stand-ins/front/front';
import { checks } from './checks';
import { isAtStandIns, otherChannels } from './corallo';

/** Whose workspace, and where the stand-ins are now. */
interface Moved {
  readonly db: Database;
  readonly secrets: SecretBox;
  readonly standIns: string;
  readonly now: Instant;
}

/** The stand-ins' own addresses, and the desk's secret, which it forgets when it ends. */
export async function moveHooks({ db, secrets, standIns }: Moved): Promise<void> {
  const known = await allChannels(db);
  for (const channel of otherChannels) {
    const { id } = known.find(({ kind, name }) => kind === channel.kind && name === channel.name) ?? {};
    if (id === undefined || !isAtStandIns(channel)) continue;
    await changeAddress(db, secrets, id, { ...channel, address: `${standIns}${channel.address}` });
    const [newest] = (await secretOfChannel(db, secrets, id)).secrets ?? [];
    if (newest)
      await fetch(`${standIns}/desk/secret`, { method: 'POST', body: new URLSearchParams({ secret: newest.secret }) });
  }
}

/** The stand-ins' own addresses, which reachability checks look at: those that people removed stay removed. */
export async function moveChecks({ db, standIns, now }: Moved): Promise<void> {
  const known = await allChecks(db);
  for (const check of await checksAt(standIns)) {
    const { id, version, check: before } = known.find((one) => one.check.name === check.name) ?? {};
    if (id === undefined || version === undefined || before?.target.kind !== check.target.kind) continue;
    if (JSON.stringify(before.target) !== JSON.stringify(check.target))
      await replaceCheck(db, id, version, { ...before, target: check.target }, { at: now, by: 'Kaja Tamm' });
  }
}

/** The checks of the demo, by where the stand-ins listen now. */
export async function checksAt(standIns: string): Promise<readonly Check[]> {
  const ports = (await (await fetch(`${standIns}/front/ports`)).json()) as Front['ports'];
  return checks(standIns, ports);
}
