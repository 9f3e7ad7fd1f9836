import { Refusal } from '$lib/core/problem/problem';
import { idFrom } from '$lib/core/forms/id';
import { keyFormSchema } from '$lib/core/forms/forms';
import { scopesFor } from '$lib/core/people/key-scopes';
import { refusalOfForm } from '$lib/core/forms/problems';
import { after, day, times } from '$lib/core/time';
import { orProblem } from '$server/http/pages';
import { actRight, requireSomeActing } from '$server/people/act-access';
import { lineRight } from '$server/people/line-access';
import { seriesCounts } from '$server/inventory/series';
import { allKeys, bytesOn, makeKey, revokeKey } from '$server/intake/receive/keys';
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
  /** Makes a key; it is shown once, in the answer to this. */
  make: ({ request, locals }) =>
    orProblem(async () => {
      const { db, clock } = bussola();
      const form = await request.formData();
      const read = keyFormSchema.safeParse({ ...Object.fromEntries(form), scopes: form.getAll('scopes') });
      if (!read.success) throw refusalOfForm(read.error);
      const { name, days, mostSeries, mostMegabytes, scopes } = read.data;
      // What a key may do, whoever makes it may do as well.
      if (scopes.includes('read-lines') && (await lineRight.of(db, locals.person)) !== null)
        throw new Refusal(
          'not-allowed',
          'A key reads the lines of every account, and you may read those of some.',
          'Let somebody make it who may read all lines.'
        );
      const own = locals.person === null ? [] : scopesFor(locals.person.role);
      if (!scopes.every((scope) => own.includes(scope)))
        throw new Refusal(
          'not-allowed',
          'A key does nothing that whoever makes it may not do.',
          'Let an administrator make a key that administers.'
        );
      if (scopes.includes('act')) requireSomeActing(await actRight.of(db, locals.person));
      const now = clock.now();
      const made = await db.transaction((within) =>
        makeKey(within, {
          name,
          scopes,
          mostSeries,
          mostBytesADay: mostMegabytes * 1_000_000,
          expiresAt: days === 0 ? null : after(now, times(days, day)),
          createdAt: now,
          createdBy: locals.person?.displayName ?? '',
          ownerId: locals.person?.id ?? null
        })
      );
      return { made: made.text, name };
    }),
  /** Revokes a key for good; what it sent stays. */
  revoke: ({ request, locals: { person } }) =>
    orProblem(async () => {
      const { db, clock } = bussola();
      const id = idFrom((await request.formData()).get('id'));
      const key = (await allKeys(db)).find((one) => one.id === id);
      if (key === undefined) throw new Refusal('not-found', 'There is no such key.', 'Load the page again.');
      if (key.ownerId !== person?.id && person?.role !== 'administrator')
        throw new Refusal(
          'not-allowed',
          `The key ${key.name} was made by ${key.createdBy}.`,
          'Only they and administrators may revoke it.'
        );
      await revokeKey(db, key.id, clock.now());
      return { done: 'The key is revoked. What it sent stays.' };
    })
} satisfies Actions;
