import { text } from '@sveltejs/kit';
import { expositionType } from '$lib/core/openmetrics';
import { version } from '$server/base/version';
import { healthExposition } from '$server/observe/health-exposition';
import { readHealth } from '$server/observe/read-health';
import { bussola } from '$server/process/running';
import { refuseUnread } from '$server/http/reading-key';
import { problemResponse } from '$server/http/problem';
import { Refusal } from '$lib/core/problem/problem';
import type { RequestHandler } from './$types';

/** How this process is, as OpenMetrics text: for a program with a key that reads, and for whoever is signed in. */
export const GET: RequestHandler = async ({ request, locals }) => {
  const server = bussola();
  try {
    if (locals.person === null) await refuseUnread(server, request);
  } catch (error) {
    if (error instanceof Refusal) return problemResponse(error);
    throw error;
  }
  const read = await readHealth(server, server.clock.now());
  return text(healthExposition(read, version), { headers: { 'content-type': expositionType } });
};
