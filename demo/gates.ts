// The ticket gates of Corallo Lines, read as OpenMetrics pages that a list names.
import { writeStored } from '../src/lib/core/forms/stored';
import { targetsForm, targetsSchema } from '../src/lib/core/targets';
import type { Instant } from '../src/lib/core/time';
import type { Queryable } from '../src/lib/server/db/pool';
import { insertAccount } from '../src/lib/server/inventory/accounts';
import { pagesProvider } from '../src/lib/server/inventory/self-described';
import type { SecretBox } from '../src/lib/server/base/secrets';
import { gateToken } from '../stand-ins/gates/gates';

const name = 'ticket-gates';

/** What is read, by where the stand-ins listen. */
const definition = (standIns: string) =>
  targetsSchema.parse({
    find: { by: 'http', url: `${standIns}/gates/pages.json` },
    signIn: { by: 'bearer' },
    rules: [
      { does: 'leave out', label: null, is: 'like', pattern: 'gate_debug_*' },
      { does: 'leave out label', label: 'firmware' }
    ]
  });

export async function seedGates(within: Queryable, secrets: SecretBox, standIns: string, now: Instant): Promise<void> {
  await insertAccount(within, {
    ...{ name, provider: pagesProvider, endpoint: `${standIns}/gates/pages.json`, keyId: 'bearer' },
    ...{ sealedSecret: secrets.seal(gateToken), createdAt: now, createdBy: 'Kaja Tamm', historyFrom: now },
    settings: writeStored(targetsForm, definition(standIns))
  });
}

/** Lets the list be read where the stand-ins listen now, unless somebody has changed what is read. */
export async function moveGates(db: Queryable, standIns: string): Promise<void> {
  await db.rows(
    `update accounts
     set settings = jsonb_set(settings, '{find,url}', to_jsonb($2::text)), endpoint = $2, discovery_tried_at = null
     where name = $1 and provider = 'pages' and endpoint like '%/gates/pages.json' and endpoint <> $2 and removed_at is null`,
    [name, `${standIns}/gates/pages.json`]
  );
}
