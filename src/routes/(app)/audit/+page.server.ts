import { idFrom } from '$lib/core/forms/id';
import { actsKept, listActs, outcomes } from '$server/audit/acts';
import { allProfiles } from '$server/people/people';
import { bussola } from '$server/process/running';
import { fixedDay } from '$server/http/fixed-day';
import type { PageServerLoad } from './$types';

const most = 100;

export const load: PageServerLoad = async ({ depends, url, locals }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const of = (name: string) => url.searchParams.get(name);
  const outcome = outcomes.find((one) => one === of('outcome')) ?? null;
  const text = of('text')?.slice(0, 200) || null;
  const personId = idFrom(of('person'));
  const zone = locals.person?.zone ?? 'UTC';
  const day = fixedDay(of('day'), zone);
  const filter = { text, personId, outcome, from: day?.from ?? null, to: day?.to ?? null };
  const [acts, people] = await Promise.all([listActs(db, filter, most + 1, idFrom(of('before'))), allProfiles(db)]);
  return {
    acts: acts.slice(0, most),
    more: acts.length > most,
    chosen: { text, personId, outcome, day: day === null ? null : of('day') },
    span: day,
    people: people.map(({ id, displayName }) => ({ id, displayName })),
    keptDays: actsKept / 86_400_000
  };
};
