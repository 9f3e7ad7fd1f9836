import { signalSchema, signalSubject } from '$lib/core/signal';
import { jsonOrNull } from '$lib/core/forms/json';
import { allMetrics } from '$server/inventory/metrics';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

/** The signal of the address, in words; null where it names none that can be read. */
export const load: PageServerLoad = async ({ url }) => {
  const { db } = bussola();
  const read = signalSchema.safeParse(jsonOrNull(url.searchParams.get('signal') ?? ''));
  const metrics = await allMetrics(db);
  const title = (url.searchParams.get('title') ?? '').slice(0, 120);
  return {
    signal: read.success ? read.data : null,
    title:
      title === '' && read.success
        ? signalSubject(read.data, (name) => metrics.find((one) => one.name === name))
        : title
  };
};
