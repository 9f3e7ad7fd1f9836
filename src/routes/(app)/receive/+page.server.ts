import { fail } from '@sveltejs/kit';
import { idFrom } from '$lib/core/forms/id';
import { keyFormSchema } from '$lib/core/forms/forms';
import type { Instant } from '$lib/core/time';
import { seriesCounts } from '$server/inventory/series';
import { allKeys, bytesOn, makeKey, revokeKey } from '$server/intake/receive/keys';
import { Refusal } from '$server/base/refusal';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:accounts');
  const { db, clock, uses, origin } = bussola();
  await uses.write();
  const [keys, counts] = await Promise.all([allKeys(db), seriesCounts(db)]);
  return {
    origin,
    keys: keys.map((key) => ({
      ...key,
      bytesToday: bytesOn(key, clock.now()),
      series: counts.filter(({ accountId }) => accountId === key.accountId).reduce((sum, { series }) => sum + series, 0)
    }))
  };
};

export const actions = {
  /** Makes a key; it is told once, in the answer to this. */
  make: async ({ request, locals }) => {
    const { db, clock } = bussola();
    const read = keyFormSchema.safeParse(Object.fromEntries(await request.formData()));
    if (!read.success) return fail(400, { problem: read.error.issues[0]?.message ?? 'Give a name.' });
    const { name, days, mostSeries, mostMegabytes } = read.data;
    const now = clock.now();
    try {
      const made = await db.transaction((within) =>
        makeKey(within, {
          name,
          mostSeries,
          mostBytesADay: mostMegabytes * 1_000_000,
          expiresAt: days === 0 ? null : ((now + days * 86_400_000) as Instant),
          createdAt: now,
          createdBy: locals.person?.displayName ?? '',
          ownerId: locals.person?.id ?? null
        })
      );
      return { made: made.text, name };
    } catch (error) {
      if (error instanceof Refusal) return fail(400, { problem: `${error.message} ${error.remedy}` });
      throw error;
    }
  },
  /** Ends a key for good; what it sent is kept. */
  revoke: async ({ request, locals: { person } }) => {
    const { db, clock } = bussola();
    const id = idFrom((await request.formData()).get('id'));
    if (id === null) return fail(400, { problem: 'There is no such key.' });
    const key = (await allKeys(db)).find((one) => one.id === id);
    if (key === undefined) return fail(404, { problem: 'There is no such key.' });
    if (key.ownerId !== person?.id && person?.role !== 'administrator')
      return fail(403, {
        problem: `The key ${key.name} was made by ${key.createdBy}: only they and administrators may revoke it.`
      });
    await revokeKey(db, id, clock.now());
    return { done: 'The key is revoked; what it sent is kept.' };
  }
} satisfies Actions;
